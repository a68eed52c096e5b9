import { useQuery } from "@tanstack/react-query";
import { NavLink } from "react-router";
import { newsQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { counted } from "../../ui/text";
import { SCREENS } from "../subject/screens";
import { usePageSubject } from "../subject/usePageSubject";

type RailProps = { onKeys: () => void; onPalette: () => void };

export function SideRail({ onKeys, onPalette }: RailProps) {
  const subject = usePageSubject();
  const { base } = subject;
  const offers = useQuery(newsQuery(subject)).data?.offers ?? 0;
  return (
    <nav
      aria-label="Screens"
      className="flex flex-col gap-0.5 border-r border-hair py-4 max-lg:hidden"
    >
      {SCREENS.map(({ path, name }) => (
        <NavLink
          key={path}
          to={`${base}/${path}`}
          className={({ isActive }) =>
            `px-[18px] py-2 ${isActive ? "font-semibold shadow-[inset_3px_0_0_var(--color-pine)]" : "text-soft hover:text-ink"}`
          }
        >
          {name}
          {path === "waitlists" && offers > 0 && (
            <span className="ml-2 text-small font-semibold text-plum">
              {counted(offers, "offer", "offers")}
            </span>
          )}
        </NavLink>
      ))}
      <Button look="quiet" className="mt-auto px-[18px] text-left text-small" onClick={onPalette}>
        <kbd className="number">Ctrl K</kbd> anything
      </Button>
      <Button look="quiet" className="px-[18px] text-left text-small" onClick={onKeys}>
        <kbd className="number">?</kbd> keys
      </Button>
    </nav>
  );
}

/** The rail at phone width: the same screens, and the cart as one of them. */
export function BottomBar({ count }: { count: number }) {
  const { base } = usePageSubject();
  const items = [...SCREENS, { path: "cart", name: count ? `Cart (${count})` : "Cart" }];
  return (
    <nav
      aria-label="Screens and cart"
      className="grid auto-cols-fr grid-flow-col border-t border-ink bg-paper lg:hidden"
    >
      {items.map(({ path, name }) => (
        <NavLink
          key={path}
          to={`${base}/${path}`}
          className={({ isActive }) =>
            `py-3 text-center text-[13px] ${isActive ? "font-semibold shadow-[inset_0_3px_0_var(--color-pine)]" : "text-soft"}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
