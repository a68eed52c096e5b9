import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import { searchQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Reading } from "../../ui/Page";
import { usePageSubject } from "../students/subject/usePageSubject";
import { CoursePicker } from "./CoursePicker";
import { Pick } from "./Pick";
import type { Want } from "./question";
import type { Asking } from "./useQuestion";

type Props = {
  want: Want;
  place: number;
  answered: Schemas["WantResponse"] | undefined;
  asking: Asking;
};

/** One want: needed or not, which of its sections will do, or another course instead. */
export function WantEditor({ want, place, answered, asking }: Props) {
  const set = (edit: (want: Want) => Want) =>
    asking.ask((question) => ({
      ...question,
      wants: question.wants.map((one, n) => (n === place ? edit(one) : one)),
    }));
  const isChoice = want.tag !== "" || want.courses.length > 1;
  const most = want.tag ? 4 : Math.min(4, want.courses.length);
  return (
    <div className="space-y-3.5 text-[13px]">
      <Pick
        legend="How much it matters"
        values={[
          ["needed", "needed"],
          ["if", "only if it fits"],
        ]}
        chosen={[want.is_needed ? "needed" : "if"]}
        single
        onChange={([value]) => set((one) => ({ ...one, is_needed: value === "needed" }))}
      />
      {isChoice && most > 1 && (
        <Pick
          legend="How many of them"
          values={Array.from({ length: most }, (_, n) => [String(n + 1), String(n + 1)])}
          chosen={[String(want.count)]}
          single
          onChange={([value]) => set((one) => ({ ...one, count: Number(value) }))}
        />
      )}
      <Narrowing want={want} set={set} />
      {answered && answered.stopped.length > 0 && <Stopped answered={answered} />}
      <div className="flex flex-wrap justify-between gap-2 border-t border-hair pt-2.5">
        {!want.tag && (
          <CoursePicker
            face="Or another course"
            asking={asking}
            withTags={false}
            onPick={(question, { courses }) => ({
              ...question,
              wants: question.wants.map((one, n) =>
                n === place ? { ...one, courses: [...new Set([...one.courses, ...courses])] } : one,
              ),
            })}
          />
        )}
        <Button
          look="quiet"
          onClick={() =>
            asking.ask((question) => ({
              ...question,
              wants: question.wants.filter((_, n) => n !== place),
            }))
          }
        >
          Do not want it
        </Button>
      </div>
    </div>
  );
}

type NarrowingProps = { want: Want; set: (edit: (want: Want) => Want) => void };

function Narrowing({ want, set }: NarrowingProps) {
  const { term } = usePageSubject();
  const single = want.courses.length === 1 ? (want.courses[0] ?? "") : "";
  const search = want.tag ? { counts: [want.tag] } : { words: single };
  const found = useQuery({ ...searchQuery(term, search, 0), enabled: Boolean(want.tag || single) });
  if (!want.tag && !single) return null;
  if (found.isPending) return <Reading what="its sections" />;
  const values = (filter: string) =>
    (found.data?.counts.find((counts) => counts.filter === filter)?.values ?? []).filter(
      ({ sections }) => sections > 0,
    );
  const rows = (found.data?.rows ?? []).filter(
    (row): row is Schemas["SectionRow"] => row.kind === "section" && row.course === single,
  );
  const parts = [
    { name: "campuses", legend: "Where", filter: "campus" },
    { name: "deliveries", legend: "How it is taught", filter: "delivery" },
    { name: "sessions", legend: "When in the term", filter: "session" },
  ] as const;
  const instructors = [...new Set(rows.flatMap((row) => row.instructors))].sort();
  return (
    <>
      {rows.length > 1 && <Sections rows={rows} want={want} set={set} />}
      {parts.map(({ name, legend, filter }) => {
        const offered = values(filter);
        if (offered.length < 2 && want[name].length === 0) return null;
        return (
          <Pick
            key={name}
            legend={legend}
            values={offered.map(({ value, name: said }) => [value, said])}
            chosen={want[name]}
            onChange={(chosen) => set((one) => ({ ...one, [name]: chosen }))}
          />
        );
      })}
      {(instructors.length > 1 || want.instructors.length > 0) && (
        <Pick
          legend="With whom"
          values={instructors.map((name) => [name, name])}
          chosen={want.instructors}
          onChange={(chosen) => set((one) => ({ ...one, instructors: chosen }))}
        />
      )}
    </>
  );
}

function Sections({ rows, want, set }: NarrowingProps & { rows: Schemas["SectionRow"][] }) {
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">Which sections will do</legend>
      <ul>
        {rows.map(({ number, component, meetings, seats }) => (
          <li key={number}>
            <label className="grid min-h-[28px] cursor-pointer grid-cols-[auto_auto_minmax(0,1fr)_auto] items-center gap-2">
              <input
                type="checkbox"
                className="accent-pine"
                checked={!want.without.includes(number)}
                onChange={({ target }) =>
                  set((one) => ({
                    ...one,
                    without: target.checked
                      ? one.without.filter((other) => other !== number)
                      : [...one.without, number].sort(),
                  }))
                }
              />
              <span className="number">{number}</span>
              <span className="truncate">
                {component} {meetings.map(({ pattern }) => pattern).join(", ") || "any time"}
              </span>
              <span className="text-small text-soft">
                {seats.left > 0 ? `${seats.left} left` : "full"}
              </span>
            </label>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

function Stopped({ answered }: { answered: Schemas["WantResponse"] }) {
  const reasons = new Map<string, string[]>();
  for (const { section, finding } of answered.stopped)
    reasons.set(finding.text, [...(reasons.get(finding.text) ?? []), section.number]);
  return (
    <div className="border-l-4 border-l-madder pl-2.5">
      <p className="font-semibold">Left out, since the rules stop them for you</p>
      {[...reasons].slice(0, 3).map(([text, numbers]) => (
        <p key={text} className="mt-1">
          <span className="number">{numbers.join(", ")}</span>: {text}
        </p>
      ))}
      {answered.stopped[0]?.finding.remedies.slice(0, 2).map(({ text }) => (
        <p key={text} className="mt-1 text-soft">
          {text}
        </p>
      ))}
    </div>
  );
}
