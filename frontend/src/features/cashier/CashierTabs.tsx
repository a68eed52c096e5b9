import { NavLink } from "react-router";
import { usePageSubject } from "../subject/usePageSubject";

const PAGES = [
  { path: "", name: "Accounts" },
  { path: "/cut", name: "The cut" },
  { path: "/day", name: "The day" },
];

/** The cashier's pages. */
export function CashierTabs() {
  const { term } = usePageSubject();
  return (
    <nav aria-label="Cashier's pages" className="flex gap-5">
      {PAGES.map(({ path, name }) => (
        <NavLink
          key={path}
          end
          to={`/fees/${term}${path}`}
          className={({ isActive }) =>
            isActive ? "border-b-2 border-pine font-semibold text-ink" : "hover:text-ink"
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
