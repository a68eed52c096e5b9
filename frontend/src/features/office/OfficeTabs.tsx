import { NavLink } from "react-router";
import type { Schemas } from "../../api/client";
import { usePageSubject } from "../students/subject/usePageSubject";

type Role = Schemas["PersonResponse"]["role"];
type Tab = { path: string; name: string };

/** The pages of each office, after the term: where their addresses begin, and the tabs. */
const OFFICES: Partial<Record<Role, { base: string; tabs: Tab[] }>> = {
  advisor: {
    base: "/advising",
    tabs: [
      { path: "", name: "Your students" },
      { path: "/requests", name: "Requests" },
    ],
  },
  instructor: {
    base: "/teaching",
    tabs: [
      { path: "", name: "Your sections" },
      { path: "/requests", name: "Requests" },
    ],
  },
  registrar: {
    base: "/office",
    tabs: [
      { path: "", name: "Term" },
      { path: "/sections", name: "Sections" },
      { path: "/windows", name: "Windows" },
      { path: "/students", name: "Students" },
      { path: "/folder", name: "In and out" },
      { path: "/requests", name: "Requests" },
      { path: "/record", name: "Record" },
      { path: "/mail", name: "Mail" },
    ],
  },
  cashier: {
    base: "/fees",
    tabs: [
      { path: "", name: "Accounts" },
      { path: "/nonpayment", name: "Nonpayment" },
      { path: "/day", name: "The day" },
    ],
  },
};

export function OfficeTabs({ of }: { of: Role }) {
  const { term } = usePageSubject();
  const office = OFFICES[of];
  if (!office) return null;
  return (
    <nav aria-label="Pages" className="flex flex-wrap gap-x-5">
      {office.tabs.map(({ path, name }) => (
        <NavLink
          key={path}
          end
          to={`${office.base}/${term}${path}`}
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
