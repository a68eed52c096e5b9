/** From the sections of a timetable to where they stand in its week. */
import type { Schemas } from "../../api/client";
import { type Placing, spreadOverlaps } from "../../ui/hours/lanes";
import type { KeptFree } from "./question";

export type Row = Schemas["SectionRow"];

export type Class = Placing & { row: Row; room: string; campus: string };

/** Every hour on which these sections ever meet, once a weekday; side by side where they overlap,
 * such as those of two halves of the term. */
export function classesOf(rows: Row[]): Class[] {
  const found = rows.flatMap((row) =>
    row.meetings.flatMap(({ weekdays, start, end, room, campus }) =>
      weekdays.map((day) => ({ row, day, start, end, room, campus, lane: 0, lanes: 1 })),
    ),
  );
  found.sort((a, b) => a.day - b.day || a.start - b.start || b.end - a.end);
  spreadOverlaps(found);
  return found;
}

/** Whole hours that hold all classes, at least from 8 to 18. */
export function hoursFor(classes: Class[]): [number, number] {
  const from = Math.min(8, ...classes.map(({ start }) => Math.floor(start / 60)));
  const to = Math.max(18, ...classes.map(({ end }) => Math.ceil(end / 60)));
  return [from, to];
}

/** How many days are drawn: Monday to Friday, and the weekend where something is on it. */
export function daysFor(classes: Class[], kept: KeptFree[]): number {
  const days = [...classes.map(({ day }) => day), ...kept.flatMap(({ weekdays }) => weekdays)];
  return Math.max(5, ...days.map((day) => day + 1));
}
