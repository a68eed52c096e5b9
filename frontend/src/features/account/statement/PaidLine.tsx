import type { Schemas } from "../../../api/client";
import { money } from "../../../ui/text";

type Mark = { at: number; text: string };

/** How far it is paid: what came, what is promised, and from where on the seats are kept. */
export function PaidLine({ account }: { account: Schemas["AccountResponse"] }) {
  const whole = account.charged_cents;
  if (whole <= 0) return null;
  const share = (cents: number) => Math.min(100, Math.max(0, (cents / whole) * 100));
  const paid = share(account.paid_cents);
  const promised = share(account.paid_cents + account.anticipated_cents) - paid;
  const keeps = account.keeps_from_cents;
  const marks: Mark[] = [
    ...(account.paid_cents > 0 ? [{ at: paid, text: `${money(account.paid_cents)} paid` }] : []),
    ...(promised > 0
      ? [{ at: paid + promised, text: `${money(account.anticipated_cents)} promised` }]
      : []),
    ...(keeps !== null && keeps > 0 && keeps < whole
      ? [{ at: share(keeps), text: "seats kept from here" }]
      : []),
    { at: 100, text: money(whole) },
  ].sort((one, other) => one.at - other.at);
  const told = [...marks.slice(0, -1).map(({ text }) => text), `${money(whole)} in all`].join(", ");
  return (
    <figure className="mt-3 mb-1">
      <figcaption className="sr-only">{told}.</figcaption>
      <div aria-hidden className="relative h-[22px] forced-color-adjust-none">
        <div className="absolute inset-x-0 top-2 h-1.5 bg-hair">
          <div className="absolute inset-y-0 left-0 bg-pine" style={{ width: `${paid}%` }} />
          <div
            className="absolute inset-y-0 bg-[repeating-linear-gradient(90deg,var(--color-pine)_0_3px,transparent_3px_6px)]"
            style={{ left: `${paid}%`, width: `${promised}%` }}
          />
        </div>
        {marks.map(({ at, text }) => (
          <div key={text} className="absolute top-0.5 h-5 w-px bg-ink" style={{ left: `${at}%` }} />
        ))}
      </div>
      <ul
        aria-hidden
        className="relative h-[18px] text-[12px] leading-tight text-soft max-md:hidden"
      >
        {placed(marks).map(({ text, left, shift }) => (
          <li
            key={text}
            className="absolute whitespace-nowrap"
            style={{ left: `${left}%`, transform: `translateX(${shift}%)` }}
          >
            {text}
          </li>
        ))}
      </ul>
      <p aria-hidden className="text-[12px] text-soft md:hidden">
        {told}
      </p>
    </figure>
  );
}

/** So much of the line's width a label takes, about. */
const ROOM = 17;

/** Where the labels stand: under their marks as far as there is room, each right of the one before. */
function placed(marks: Mark[]) {
  let free = 0;
  return marks.map((mark) => {
    if (mark.at >= 94) return { ...mark, left: 100, shift: -100 };
    const left = Math.min(Math.max(mark.at, free), 100 - 2 * ROOM);
    free = left + ROOM;
    return { ...mark, left, shift: 0 };
  });
}
