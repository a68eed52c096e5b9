import type { Schemas } from "../../../api/client";
import { Ticks } from "../../../ui/Ticks";

export type Lift = Schemas["PermissionCodesWanted"]["waives"][number];

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
      <Ticks among={LIFTS} chosen={chosen} onChange={onChoose} />
    </fieldset>
  );
}
