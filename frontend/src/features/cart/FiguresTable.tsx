import type { Schemas } from "../../api/client";
import { money } from "../../ui/text";

type Figures = Schemas["FiguresResponse"];

/** Credits, what they cost and the load: now, and after. */
export function FiguresTable({ before, after }: { before: Figures; after: Figures }) {
  const yes = (value: boolean) => (value ? "yes" : "no");
  const rows = [
    ["Credits", String(before.credits), String(after.credits)],
    ["Tuition and fees", money(before.charge_cents), money(after.charge_cents)],
    ["Full time", yes(before.full_time), yes(after.full_time)],
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
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, now, then]) => (
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
          </tr>
        ))}
      </tbody>
    </table>
  );
}
