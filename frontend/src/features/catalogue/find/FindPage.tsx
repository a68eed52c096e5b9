import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../../api/client";
import { academicPlanQuery, searchQuery, starsQuery } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { counted } from "../../../ui/text";
import { agreedCourses } from "../../students/plan/agreed";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { recentSections } from "../section/recent";
import { useMine } from "../section/useMine";
import { useSectionLink } from "../section/useSectionLink";
import { FilterBar } from "./FilterBar";
import { type FilterName, type Filters, searchOf, useFilters } from "./filters";
import { Picking } from "./Picking";
import { Results } from "./Results";
import { usePlainWords } from "./usePlainWords";

/** Finding sections: filters above, results below that follow as one types. */
export function FindPage() {
  const subject = usePageSubject();
  const { term } = subject;
  const mine = useMine();
  const filters = useFilters();
  const navigate = useNavigate();
  const link = useSectionLink();
  const scroller = useRef<HTMLElement | null>(null);
  const [ready, setReady] = useState(false);
  useEffect(() => {
    scroller.current = document.getElementById("main");
    setReady(true);
  }, []);
  const stars = useQuery({ ...starsQuery(subject), enabled: mine.has });
  const plan = useQuery({ ...academicPlanQuery(subject), enabled: mine.has });
  const recent = recentSections(term);
  const lists: Record<string, string[]> = { starred: stars.data?.numbers ?? [], recent };
  const among = filters.one("list") ? (lists[filters.one("list")] ?? []) : null;
  const search = searchOf(filters, mine.against, among);
  const found = useQuery(searchQuery(term, search, 0));
  const straight = /^\s*(\d{5})\s*$/.exec(filters.one("words"))?.[1];
  const only =
    found.data?.sections === 1
      ? found.data.rows.flatMap((row) => (row.kind === "section" ? row.number : []))[0]
      : undefined;
  const asFilters = usePlainWords(found.isPlaceholderData ? undefined : found.data);
  const enter = () => {
    if (asFilters()) return;
    const number = straight ?? only;
    if (number) navigate(link(number));
  };
  const aside = found.data
    ? `${counted(found.data.sections, "section", "sections")} of ${counted(found.data.courses, "course", "courses")}`
    : "";
  return (
    <Page title="Find sections" aside={<span aria-live="polite">{aside}</span>}>
      <Picking />
      <FilterBar
        filters={filters}
        counts={found.data?.counts ?? []}
        hasWeek={mine.has}
        stars={lists.starred?.length ?? 0}
        recent={recent.length}
        onEnter={enter}
      />
      <p className="mt-2 text-[13px] text-soft empty:hidden">
        {only && filters.one("words") ? (
          <>
            Enter opens <span className="number">{only}</span>.
          </>
        ) : (
          <ReadAs view={found.data} />
        )}
      </p>
      <div className="mt-1 space-y-1 empty:hidden">
        {filters.strange.map((name) => (
          <Notice key={name} tone="warning">
            The address names a filter “{name.slice(0, 40)}” that there is not. It was left aside.
          </Notice>
        ))}
        {found.data?.notes.map((note) => (
          <Notice key={note} tone="warning">
            {note}
          </Notice>
        ))}
      </div>
      {found.isError && (
        <div className="mt-3 space-y-2">
          <ProblemNotice problem={found.error} />
          <Button onClick={filters.clear}>Clear all filters</Button>
        </div>
      )}
      {found.isPending && <Reading what="the sections" />}
      {found.data && !found.isError && found.data.sections === 0 && (
        <Nothing view={found.data} filters={filters} />
      )}
      {found.data && !found.isError && found.data.sections > 0 && ready && (
        <Results
          key={JSON.stringify(search)}
          term={term}
          search={search}
          first={found.data}
          stars={new Set(lists.starred)}
          agreed={agreedCourses(plan.data, term)}
          scroller={scroller}
        />
      )}
    </Page>
  );
}

function ReadAs({ view }: { view: Schemas["SearchResponse"] | undefined }) {
  return view?.read_as.map(({ word, taken_for }) => (
    <span key={word}>
      Nothing has “{word}”; taken for <b className="font-semibold">{taken_for.join(", ")}</b>.{" "}
    </span>
  ));
}

type NothingProps = { view: Schemas["SearchResponse"]; filters: Filters };

/** Filters that exclude one another: which to loosen, and what there would be then. */
function Nothing({ view, filters }: NothingProps) {
  const list = filters.one("list");
  const loosen = (name: string) => {
    if (name === "among") filters.set("list", "");
    else filters.set(name as FilterName, []);
  };
  return (
    <div className="mt-4 border-t border-ink pt-4">
      <h2 className="text-[20px]">
        {list && filters.active === 1
          ? `Nothing ${list === "starred" ? "starred" : "viewed"} yet`
          : "Nothing meets all of that"}
      </h2>
      {view.loosen.length > 0 ? (
        <>
          <p className="mt-1 text-soft">Leave one of them out, and there is something.</p>
          <ul className="mt-2 space-y-1">
            {view.loosen.slice(0, 5).map(({ value, name, sections }) => (
              <li key={value}>
                <Button look="link" className="min-h-[24px]" onClick={() => loosen(value)}>
                  Without “{value === "words" ? filters.one("words") : name}”:{" "}
                  {counted(sections, "section", "sections")}
                </Button>
              </li>
            ))}
          </ul>
        </>
      ) : (
        <p className="mt-1 text-soft">
          {filters.one("words")
            ? "Look at how the words are written, or use fewer of them."
            : "Take some filters out."}
        </p>
      )}
      {filters.active > 0 && (
        <p className="mt-3">
          <Button onClick={filters.clear}>Clear all filters</Button>
        </p>
      )}
    </div>
  );
}
