import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { money, shortDay } from "../../../ui/text";

type Account = Schemas["AccountResponse"];
export type StatementLine = Account["lines"][number];
type Props = {
  account: Account;
  /** Where the confirmations are that lines come from; without it they are only named. */
  base?: string | undefined;
  /** What can be done about a line. */
  act?: ((line: StatementLine) => ReactNode) | undefined;
};

/** Line by line what is charged and paid, how it comes about, and by what it was told. */
export function StatementTable({ account, base, act }: Props) {
  const { balance_cents: balance } = account;
  return (
    <table className="mt-2 w-full border-collapse text-[13.5px]">
      <caption className="sr-only">Statement of {account.term}</caption>
      <thead className="max-md:sr-only">
        <tr className="text-left text-[12px] text-soft">
          <th scope="col" className="py-1.5 pr-4 font-normal">
            What for
          </th>
          <th scope="col" className="py-1.5 pr-4 font-normal">
            How it comes about
          </th>
          <th scope="col" className="py-1.5 pr-4 font-normal">
            Told by
          </th>
          <th scope="col" className="py-1.5 pl-4 text-right font-normal">
            Charged
          </th>
          <th scope="col" className="py-1.5 pl-4 text-right font-normal">
            Paid
          </th>
        </tr>
      </thead>
      <tbody>
        {account.lines.map((line, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a course may be dropped more than once
          <tr key={`${place}-${line.what}`} className={ROW} data-testid={`line-${line.kind}`}>
            <th scope="row" className={`${CELL} pr-4 text-left font-normal`}>
              <b className="font-semibold">{line.what}</b>{" "}
              {line.number && <span className="number text-[12px] text-soft">{line.number}</span>}
              {line.dropped_on && `, dropped ${shortDay(line.dropped_on)}`}
              {line.title && <span className="block text-[12px] text-soft">{line.title}</span>}
            </th>
            <td className={`${CELL} pr-4 max-md:col-start-1`}>
              {line.how}
              {line.gives_back && (
                <span className="block text-[12px] text-soft">{line.gives_back}</span>
              )}
              {line.undone && <span className="block text-[12px] text-ochre">undone</span>}
            </td>
            <td className={`${CELL} pr-4 text-soft max-md:col-start-1 max-md:text-[12px]`}>
              {line.confirmation !== null && base !== undefined ? (
                <Link className="link" to={`${base}/confirmations/${line.confirmation}`}>
                  {line.told_by}
                </Link>
              ) : (
                line.told_by
              )}
              {act?.(line)}
            </td>
            <td className={`${SUM} max-md:col-start-2 max-md:row-start-1`}>
              {line.was_cents !== null && line.was_cents !== line.charged_cents && (
                <s className="block text-[12px] text-soft">{money(line.was_cents)}</s>
              )}
              {isCharge(line) && money(line.charged_cents)}
            </td>
            <td
              className={`${SUM} ${line.paid_cents > 0 ? "text-pine" : ""} max-md:col-start-2 max-md:row-start-1`}
            >
              {line.kind === "entry" && money(line.paid_cents)}
            </td>
          </tr>
        ))}
      </tbody>
      <tfoot className="font-semibold tabular-nums">
        <tr className="border-t border-ink max-md:hidden">
          <th scope="row" className="pt-2 text-left" colSpan={3}>
            In all
          </th>
          <td className="pt-2 pl-4 text-right">{money(account.charged_cents)}</td>
          <td className="pt-2 pl-4 text-right">{money(account.paid_cents)}</td>
        </tr>
        <tr className="max-md:flex max-md:justify-between max-md:border-t max-md:border-ink max-md:py-2">
          <th scope="row" className="pt-1 text-left" colSpan={3}>
            {balance < 0 ? "Paid too much" : balance === 0 ? "Nothing is open" : "Open"}
          </th>
          <td className="pt-1 pl-4 text-right" colSpan={2} data-testid="balance">
            {money(Math.abs(balance))}
          </td>
        </tr>
      </tfoot>
    </table>
  );
}

const ROW =
  "border-t border-hair align-top max-md:grid max-md:grid-cols-[1fr_auto] max-md:gap-x-3 max-md:py-2";
const CELL = "py-[7px] max-md:py-0";
const SUM = "py-[7px] pl-4 text-right tabular-nums whitespace-nowrap max-md:py-0";

function isCharge({ kind }: StatementLine): boolean {
  return kind !== "entry" && kind !== "anticipated_payment";
}
