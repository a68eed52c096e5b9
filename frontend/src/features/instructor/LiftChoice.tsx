import type { Schemas } from "../../api/client";

export type Lift = Schemas["ConsentWanted"]["waives"][number];

const LIFTS: [Lift, string][] = [
  ["consent", "consent, where it is needed"],
  ["seats", "a seat beyond the limit"],
  ["requisite", "requisites"],
  ["restriction", "restrictions"],
  ["late add", "a late add"],
  ["repeat", "another attempt"],
  ["conflict", "a time conflict"],
];

type Props = { legend: string; chosen: Lift[]; onChoose: (lifts: Lift[]) => void };

/** What an instructor lifts. */
export function LiftChoice({ legend, chosen, onChoose }: Props) {
  return (
    <fieldset className="mb-3">
      <legend className="mb-1">{legend}</legend>
      <div className="flex flex-wrap gap-x-5 gap-y-1">
        {LIFTS.map(([lift, name]) => (
          <label key={lift} className="flex min-h-[24px] items-center gap-1.5">
            <input
              type="checkbox"
              className="size-4 accent-pine"
              checked={chosen.includes(lift)}
              onChange={(event) =>
                onChoose(
                  event.target.checked ? [...chosen, lift] : chosen.filter((one) => one !== lift),
                )
              }
            />
            {name}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
