import type { Schemas } from "../../api/client";
import { counted } from "../../ui/text";

/** Sections that students notice a change of, and whom it affects. */
export function AffectedSections({ affected }: { affected: Schemas["AffectedSectionResponse"][] }) {
  return (
    <ul className="mt-2 border-t border-ink">
      {affected.map((one) => (
        <li key={one.number} className="border-b border-hair py-1.5">
          <span className="number mr-2 text-soft">{one.number}</span>
          <b className="font-semibold">{one.name}</b>{" "}
          {one.is_off ? "does not take place" : `${one.before} → ${one.after}`}
          <span className="block text-[13px] text-soft">
            {[
              `${one.registered} registered`,
              one.waiting > 0 && `${one.waiting} waiting`,
              one.in_carts > 0 && counted(one.in_carts, "cart", "carts"),
            ]
              .filter(Boolean)
              .join(", ")}
            {one.clashing > 0 && (
              <span className="text-madder">
                ; with other classes of {counted(one.clashing, "student", "students")} it clashes
              </span>
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}
