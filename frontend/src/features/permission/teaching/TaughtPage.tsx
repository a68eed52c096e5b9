import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { taughtQuery } from "../../../api/queries";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { OfficeTabs } from "../../office/OfficeTabs";

/** The sections that an instructor teaches. */
export function TaughtPage() {
  const { term = "" } = useParams();
  const sections = useQuery(taughtQuery(term));
  return (
    <Page title="Your sections" aside={<OfficeTabs of="instructor" />}>
      {sections.isPending && <Reading what="your sections" />}
      {sections.isError && !sections.data && <ProblemNotice problem={sections.error} />}
      {sections.data?.length === 0 && (
        <p className="mt-3 border-t border-ink py-3 text-soft">
          You teach nothing in this term, as far as it is announced.
        </p>
      )}
      <ul className="mt-3 border-t border-ink">
        {sections.data?.map((section) => (
          <li
            key={section.number}
            className="grid items-center gap-x-4 border-b border-hair py-2 md:grid-cols-[60px_minmax(0,1.6fr)_minmax(0,1.4fr)_150px]"
          >
            <span className="number">{section.number}</span>
            <div>
              <Link className="link font-semibold" to={`/teaching/${term}/${section.number}`}>
                {section.name}
              </Link>
              <p className="text-small text-soft">{section.title}</p>
            </div>
            <span className="text-[13px]">{section.times}</span>
            <span className="text-[13px]">
              {section.taken} of {section.limit} taken
              {section.waiting > 0 && `, ${section.waiting} waiting`}
            </span>
          </li>
        ))}
      </ul>
    </Page>
  );
}
