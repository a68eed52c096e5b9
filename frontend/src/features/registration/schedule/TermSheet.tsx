import type { CSSProperties } from "react";
import type { Schemas } from "../../../api/client";
import { HourGrid } from "../../../ui/hours/HourGrid";
import { type Tint, tintsOf } from "../../../ui/hours/tints";
import { clockTime, credits, shortDay } from "../../../ui/text";
import { type Entry, hoursOf, type Placed, placeTerm } from "./layout";

type Section = Schemas["SectionResponse"];
type Term = Schemas["TermResponse"];

const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** A term's week and its list on one sheet: to print, or to show to others. */
export function TermSheet({ sections, term }: { sections: Section[]; term: Term }) {
  const entries = sections.map(
    (section): Entry => ({ section, state: "registered", clashes: false, tight: false }),
  );
  const noTimes = sections.filter(({ meetings }) => meetings.length === 0);
  return (
    <>
      <Grid entries={entries} term={term} />
      {noTimes.length > 0 && (
        <p className="mt-2 text-small text-soft">
          Without set times:{" "}
          {noTimes.map(({ name, delivery }) => `${name} (${delivery})`).join(", ")}
        </p>
      )}
      <List sections={sections} />
      <p className="mt-2 text-small text-soft">
        {term.name}, {shortDay(term.first_day)} to {shortDay(term.last_day)}. No classes:{" "}
        {term.breaks
          .map(({ name, first_day, last_day }) =>
            first_day === last_day
              ? `${shortDay(first_day)} (${name})`
              : `${shortDay(first_day)} to ${shortDay(last_day)} (${name})`,
          )
          .join(", ")}
        .
      </p>
    </>
  );
}

function Grid({ entries, term }: { entries: Entry[]; term: Term }) {
  const placed = placeTerm(entries);
  const last = Math.max(5, ...placed.map(({ day }) => day + 1));
  const tints = tintsOf(entries.map(({ section }) => section));
  return (
    <HourGrid
      label="The week"
      className="mt-3"
      days={DAYS.slice(0, last).map((name) => ({ key: name, name }))}
      placed={placed}
      hours={hoursOf(entries)}
      hour={33}
      gap={2}
      above={9}
    >
      {(item, style) => (
        <Class
          key={`${item.section.number}-${item.start}`}
          item={item}
          style={style}
          term={term}
          tint={tints.get(item.section.course.split(" ")[0] ?? "")}
        />
      )}
    </HourGrid>
  );
}

type ClassProps = { item: Placed; style: CSSProperties; term: Term; tint: Tint | undefined };

function Class({ item, style, term, tint }: ClassProps) {
  const { section, start, end, room } = item;
  const isWhole = section.first_day === term.first_day && section.last_day === term.last_day;
  return (
    <li
      className="absolute overflow-hidden rounded-[2px] border-l-[3px] px-1 text-[11px] leading-[1.2] print:border print:border-l-[3px]"
      style={{ ...style, backgroundColor: tint?.fill, borderColor: tint?.edge }}
      title={`${section.name} ${section.number}, ${clockTime(start)}–${clockTime(end)}${room ? `, ${room}` : ""}`}
    >
      <b className="font-semibold">{section.name}</b>{" "}
      {isWhole
        ? clockTime(start)
        : `${shortDay(section.first_day)} – ${shortDay(section.last_day)}`}
      <span className="block truncate">{room}</span>
    </li>
  );
}

function List({ sections }: { sections: Section[] }) {
  return (
    <table className="mt-4 w-full text-[12.5px] [&_td]:border-b [&_td]:border-hair [&_td]:py-1 [&_td]:pr-3 [&_td]:align-top [&_th]:border-b [&_th]:border-ink [&_th]:pr-3 [&_th]:text-left [&_th]:font-normal [&_th]:text-soft">
      <caption className="sr-only">The sections registered</caption>
      <thead>
        <tr>
          <th scope="col">Number</th>
          <th scope="col">Section</th>
          <th scope="col">Times and rooms</th>
          <th scope="col" className="max-sm:hidden print:table-cell">
            Dates
          </th>
          <th scope="col">Credits</th>
          <th scope="col" className="max-sm:hidden print:table-cell">
            Instructor
          </th>
        </tr>
      </thead>
      <tbody>
        {sections.map((section) => (
          <tr key={section.number}>
            <td className="number">{section.number}</td>
            <td>
              <b className="font-semibold">{section.name}</b> {section.title}
            </td>
            <td>
              {section.meetings.map(({ pattern, room }) => (
                <span key={pattern} className="block">
                  {pattern}
                  {room && `, ${room}`}
                </span>
              ))}
              {section.meetings.length === 0 && section.delivery}
            </td>
            <td className="whitespace-nowrap max-sm:hidden print:table-cell">
              {shortDay(section.first_day)} – {shortDay(section.last_day)}
            </td>
            <td className="whitespace-nowrap">
              {section.gradings.length ? section.credits : "–"}
              {section.grading !== "standard" &&
                section.gradings.length > 0 &&
                `, ${section.grading}`}
            </td>
            <td className="max-sm:hidden print:table-cell">
              {section.instructors.join(", ") || "to be named"}
            </td>
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr>
          <td colSpan={6} className="border-none! pt-1.5 font-semibold">
            {credits(sections.reduce((sum, section) => sum + section.credits, 0))} in all
          </td>
        </tr>
      </tfoot>
    </table>
  );
}
