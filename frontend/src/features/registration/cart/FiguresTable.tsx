import type { Schemas } from "../../../api/client";
import { money } from "../../../ui/text";

type Figures = Schemas["FiguresResponse"];
type Props = {
  before: Figures;
  after: Figures;
  due?: Due | null;
  /** What it would be once what stands in the student's way is cleared. */
  cleared?: Schemas["OnceClear"] | null;
};
export type Due = { name: string; before_cents: number; after_cents: number };

/** Credits, what they cost, what of it is due next, and the load: now, and after. */
export function FiguresTable({ before, after, due, cleared }: Props) {
  const yes = (value: boolean) => (value ? "yes" : "no");
  const rows = [
    [
      "Credits",
      String(before.credits),
      String(after.credits),
      cleared && String(cleared.after.credits),
    ],
    [
      "Tuition and fees",
      money(before.charge_cents),
      money(after.charge_cents),
      cleared && money(cleared.after.charge_cents),
    ],
    ...(due && !cleared
      ? ([[due.name, money(due.before_cents), money(due.after_cents), null]] as const)
      : []),
    [
      "Full time",
      yes(before.full_time),
      yes(after.full_time),
      cleared && yes(cleared.after.full_time),
    ],
  ] as const;
  return (
    <table className="mb-2.5 w-full text-[13px]">
      <caption className="sr-only">Now, and after the changes</caption>
      <thead>
        <tr className="text-small text-soft">
          <td />
          <th scope="col" className="text-right font-normal">
            now
          </th>
          <td />
          <th scope="col" className="text-right font-normal">
            after
          </th>
          {cleared && (
            <th scope="col" className="pl-3 text-right font-normal">
              once clear
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, now, then, once]) => (
          <tr key={name}>
            <th scope="row" className="py-px text-left font-normal">
              {name}
            </th>
            <td className="text-right">{now}</td>
            <td aria-hidden className="w-8 text-center text-soft">
              →
            </td>
            <td className={`text-right font-semibold ${now === then ? "" : "text-pine"}`}>
              {then}
            </td>
            {once && <td className="pl-3 text-right font-semibold text-woad">{once}</td>}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
