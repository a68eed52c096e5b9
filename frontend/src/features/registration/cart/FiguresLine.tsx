import type { Schemas } from "../../../api/client";
import { money } from "../../../ui/text";
import type { Due } from "./FiguresTable";

/** The same figures in one line, where there is little room. */
export function FiguresLine({ cart, due }: { cart: Schemas["CartResponse"]; due: Due | null }) {
  const { before, once_clear } = cart;
  const after = once_clear?.after ?? cart.after;
  return (
    <p className="mb-1.5 flex flex-wrap justify-between gap-x-4 text-[13px] lg:hidden">
      <span>
        {before.credits} → <b className="font-semibold text-pine">{after.credits}</b> credits
        {once_clear && " once clear"}, full time{" "}
        <b className="font-semibold">{after.full_time ? "yes" : "no"}</b>
      </span>
      {due && !once_clear && (
        <span>
          {due.name.charAt(0).toLowerCase() + due.name.slice(1)}{" "}
          <b className="font-semibold">{money(due.after_cents)}</b>
        </span>
      )}
    </p>
  );
}
