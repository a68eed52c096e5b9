import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { officeSectionsQuery } from "../../../api/registrarQueries";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { SearchField } from "../../../ui/SearchField";
import { counted } from "../../../ui/text";
import { OfficeTabs } from "../../office/OfficeTabs";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { seatsBySubject } from "./bySubject";
import { ChangeSections } from "./ChangeSections";
import { matching } from "./sections";

const SubjectPicture = lazy(async () => ({
  default: (await import("./SubjectPicture")).SubjectPicture,
}));

type Section = Schemas["OfficeSectionResponse"];

/** So many lines are drawn at first. */
const FIRST = 60;

/** The sections of a term, to be changed one by one or many at once. */
export function SectionsPage() {
  const { term } = usePageSubject();
  const found = useQuery(officeSectionsQuery(term));
  return (
    <Page title="Sections" aside={<OfficeTabs of="registrar" />}>
      {found.isPending && <Reading what="the sections" />}
      {found.isError && (
        <div className="mt-4">
          <ProblemNotice problem={found.error} />
        </div>
      )}
      {found.data && <Sections key={term} term={term} all={found.data} />}
    </Page>
  );
}

function Sections({ term, all }: { term: string; all: Schemas["OfficeSections"] }) {
  const [asked] = useSearchParams();
  const [words, setWords] = useState(asked.get("number") ?? "");
  const [most, setMost] = useState(FIRST);
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const [isDrawn, setIsDrawn] = useState(false);
  const [changes, setChanges] = useState<Section[]>([]);
  const onSearch = useCallback((text: string) => {
    setWords(text);
    setMost(FIRST);
  }, []);
  const found = useMemo(() => matching(all.sections, words), [all, words]);
  const chosen = all.sections.filter(({ number }) => marked.has(number));
  const toggle = (number: string) => {
    const next = new Set(marked);
    if (!next.delete(number)) next.add(number);
    setMarked(next);
  };
  const allMarked = found.length > 0 && found.every(({ number }) => marked.has(number));
  return (
    <>
      <div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-ink pt-3">
        <div className="w-80 max-w-full">
          <SearchField
            label="Look for sections"
            placeholder="Number, course, room, instructor"
            initially={words}
            onSearch={onSearch}
          />
        </div>
        <p className="text-soft" role="status">
          {counted(found.length, "section", "sections")}
        </p>
        <span className="flex-1" />
        {chosen.length > 0 && (
          <Button look="quiet" onClick={() => setMarked(new Set())}>
            Take the marks off
          </Button>
        )}
        <Button
          look="main"
          className="px-4 py-1"
          disabled={chosen.length === 0}
          onClick={() => setChanges(chosen)}
        >
          {chosen.length > 0 ? `Change the ${chosen.length} marked` : "Change those marked"}
        </Button>
      </div>
      <div className="mt-3 relative overflow-x-auto">
        <table className="w-full border-t border-hair text-[13px]">
          <thead>
            <tr className="border-b border-hair text-left text-small text-soft">
              <th className="w-8 py-1.5">
                <input
                  type="checkbox"
                  className="size-4 accent-pine align-middle"
                  aria-label={`Mark all ${found.length}`}
                  checked={allMarked}
                  onChange={() =>
                    setMarked(new Set(allMarked ? [] : found.map(({ number }) => number)))
                  }
                />
              </th>
              <th className="pr-3 font-normal">Number</th>
              <th className="pr-3 font-normal">Section</th>
              <th className="pr-3 font-normal">When and where</th>
              <th className="pr-3 font-normal max-md:hidden">Who</th>
              <th className="pr-3 text-right font-normal">Taken</th>
              <th className="pr-3 text-right font-normal max-md:hidden">Waiting</th>
              <th className="font-normal">
                <span className="sr-only">Change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {found.slice(0, most).map((section) => (
              <Line
                key={section.number}
                section={section}
                isMarked={marked.has(section.number)}
                onMark={() => toggle(section.number)}
                onChange={() => setChanges([section])}
              />
            ))}
          </tbody>
        </table>
      </div>
      {found.length === 0 && <p className="py-3 text-soft">No section is like that.</p>}
      {found.length > most && (
        <Button className="mt-3" onClick={() => setMost(most + 300)}>
          More of the {found.length}
        </Button>
      )}
      <details className="mt-8" onToggle={(event) => setIsDrawn(event.currentTarget.open)}>
        <summary className="w-fit py-1 text-soft hover:text-ink">Seats by subject</summary>
        {isDrawn && (
          <Suspense fallback={<Reading what="the picture" />}>
            <SubjectPicture subjects={seatsBySubject(all.sections)} />
          </Suspense>
        )}
      </details>
      {changes.length > 0 && (
        <ChangeSections
          key={changes.map(({ number }) => number).join()}
          term={term}
          sections={changes}
          campuses={all.campuses}
          onClose={(isDone) => {
            setChanges([]);
            if (isDone) setMarked(new Set());
          }}
        />
      )}
    </>
  );
}

type LineProps = {
  section: Section;
  isMarked: boolean;
  onMark: () => void;
  onChange: () => void;
};

function Line({ section, isMarked, onMark, onChange }: LineProps) {
  const { number, name, title, times, rooms, teachers, limit, taken, waiting } = section;
  return (
    <tr className={`border-b border-hair align-baseline ${isMarked ? "bg-shade" : ""}`}>
      <td className="py-1.5">
        <input
          type="checkbox"
          className="size-4 accent-pine align-middle"
          aria-label={`Mark ${number}`}
          checked={isMarked}
          onChange={onMark}
        />
      </td>
      <td className="number pr-3">{number}</td>
      <td className="pr-3">
        <span className="font-semibold whitespace-nowrap">{name}</span>{" "}
        <span className="text-soft">{title}</span>
        {section.cancelled && <span className="block text-madder">Does not take place</span>}
        {section.seats_with && (
          <span className="block text-small text-soft">
            shares the seats of <span className="number">{section.seats_with}</span>
          </span>
        )}
      </td>
      <td className="pr-3">
        {times}
        {rooms.length > 0 && <span className="block text-small text-soft">{rooms.join(", ")}</span>}
      </td>
      <td className="pr-3 max-md:hidden">
        {teachers.map(({ full_name }) => full_name).join(", ") || "Open"}
      </td>
      <td
        className={`pr-3 text-right whitespace-nowrap tabular-nums ${taken > limit ? "text-ochre" : ""}`}
      >
        {taken} of {limit}
      </td>
      <td className="pr-3 text-right tabular-nums max-md:hidden">
        {waiting > 0 ? waiting : <span className="text-soft">–</span>}
      </td>
      <td className="text-right">
        <Button look="link" onClick={onChange}>
          Change<span className="sr-only"> {number}</span>
        </Button>
      </td>
    </tr>
  );
}
