import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";

type Check = Schemas["CheckResponse"];

/** So many faults of a line are shown at first. */
const FIRST = 3;

/** Where what is at fault is put right. */
const MENDS: Record<Check["mend"], { path: string; name: string }> = {
  folder: { path: "/folder", name: "Bring in a folder" },
  sections: { path: "/sections", name: "Sections" },
  windows: { path: "/windows", name: "Assign windows" },
  policies: { path: "#decided", name: "What is decided" },
};

/** What must be so before a term is opened, with what is at fault. */
export function CheckList({ term }: { term: Schemas["PreparedTerm"] }) {
  const faulty = term.checks.filter(({ is_well }) => !is_well);
  const well = term.checks.filter(({ is_well }) => is_well);
  return (
    <section className="mt-7" aria-labelledby="check-list">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 id="check-list" className="text-[20px]">
          Check list
        </h2>
        <p className="text-soft" role="status">
          {faulty.length === 0
            ? "All is in order."
            : `${well.length} of ${term.checks.length} are in order.`}
        </p>
      </div>
      <ul className="mt-2 border-t border-ink">
        {faulty.map((check) => (
          <Faulty key={check.key} check={check} term={term.code} />
        ))}
        {well.map(({ key, title }) => (
          <li key={key} className="flex flex-wrap gap-x-4 border-b border-hair py-1.5">
            <span className="w-28 shrink-0 text-pine">In order</span>
            <span className="text-soft">{title}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Faulty({ check, term }: { check: Check; term: string }) {
  const [all, setAll] = useState(false);
  const shown = all ? check.faults : check.faults.slice(0, FIRST);
  const hidden = check.faults.length - shown.length;
  const mend = MENDS[check.mend];
  return (
    <li className="flex flex-wrap gap-x-4 border-b border-hair py-2">
      <span className={`w-28 shrink-0 ${check.holds_up ? "text-madder" : "text-ochre"}`}>
        {check.holds_up ? "Stops students" : "Look at it"}
      </span>
      <div className="min-w-0 flex-1 basis-72">
        <p className="font-semibold">
          {check.title}
          {check.faults.length > 1 && (
            <span className="ml-2 font-normal text-soft">
              not so in {check.faults.length} places{check.has_more && " and more"}
            </span>
          )}
        </p>
        <ul className="mt-0.5">
          {shown.map(({ text, number }) => (
            <li key={number + text} className="flex flex-wrap gap-x-2 py-0.5">
              <span>
                {number && (
                  <Link
                    className="link number mr-2"
                    to={`/office/${term}/sections?number=${number}`}
                  >
                    {number}
                  </Link>
                )}
                {text}
              </span>
            </li>
          ))}
        </ul>
        {hidden > 0 && (
          <Button look="link" className="mt-0.5" onClick={() => setAll(true)}>
            {hidden} more<span className="sr-only"> of “{check.title}”</span>
          </Button>
        )}
      </div>
      <p className="shrink-0">
        <Link className="link" to={`/office/${term}${mend.path}`}>
          {mend.name}
          <span className="sr-only">: {check.title}</span>
        </Link>
      </p>
    </li>
  );
}
