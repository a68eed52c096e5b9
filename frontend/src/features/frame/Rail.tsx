import { useQuery } from "@tanstack/react-query";
import { NavLink, useLocation } from "react-router";
import { newsQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Dropdown } from "../../ui/Dropdown";
import { counted } from "../../ui/text";
import { screensOf } from "../students/subject/screens";
import { usePageSubject } from "../students/subject/usePageSubject";

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
      {screensOf(subject).map(({ path, name }) => (
        <NavLink
          key={path}
          to={`${base}/${path}`}
          className={({ isActive }) =>
            `px-[18px] py-2 ${isActive ? "font-semibold shadow-[inset_3px_0_0_var(--color-pine)]" : "text-soft hover:text-ink"}`
          }
        >
          {name}
          {path === "waitlists" && <Offers many={offers} />}
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

function Offers({ many }: { many: number }) {
  if (many === 0) return null;
  return (
    <span className="ml-2 text-small font-semibold text-plum">
      {counted(many, "offer", "offers")}
    </span>
  );
}

/** What stands in the foot of a phone; the rest is one press away. */
const AT_HAND = ["find", "schedule"];

/** The rail at phone width: where one is most, the cart, and the others behind one more press. */
export function BottomBar({ count }: { count: number }) {
  const subject = usePageSubject();
  const { base } = subject;
  const { pathname } = useLocation();
  const offers = useQuery(newsQuery(subject)).data?.offers ?? 0;
  const screens = screensOf(subject);
  const others = screens.filter(({ path }) => ![...AT_HAND, "waitlists"].includes(path));
  const items = [
    ...screens.filter(({ path }) => AT_HAND.includes(path)),
    { path: "cart", name: count ? `Cart ${count}` : "Cart" },
    { path: "waitlists", name: "Waiting" },
  ];
  const isOther = others.some(({ path }) => pathname.startsWith(`${base}/${path}`));
  const look = (isActive: boolean) =>
    `py-3 short:py-1.5 text-center text-[13px] ${isActive ? "font-semibold shadow-[inset_0_3px_0_var(--color-pine)]" : "text-soft"}`;
  return (
    <nav
      aria-label="Screens and cart"
      className="grid auto-cols-fr grid-flow-col border-t border-ink bg-paper lg:hidden"
    >
      {items.map(({ path, name }) => (
        <NavLink key={path} to={`${base}/${path}`} className={({ isActive }) => look(isActive)}>
          {name}
          {path === "waitlists" && offers > 0 && (
            <b className="ml-1 font-semibold text-plum">
              {offers}
              <span className="sr-only"> {offers === 1 ? "offer" : "offers"}</span>
            </b>
          )}
        </NavLink>
      ))}
      <Dropdown
        key={pathname}
        face="More"
        className={look(isOther)}
        title="More screens"
        align="end"
        look="w-[200px] py-1.5"
      >
        <ul>
          {others.map(({ path, name }) => (
            <li key={path}>
              <NavLink to={`${base}/${path}`} className="block px-4 py-2.5 hover:bg-shade">
                {name}
              </NavLink>
            </li>
          ))}
        </ul>
      </Dropdown>
    </nav>
  );
}
