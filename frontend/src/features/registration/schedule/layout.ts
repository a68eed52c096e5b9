/** From sections to what is drawn on the grid of one week. */
import type { Schemas } from "../../../api/client";
import { type Placing, spreadOverlaps } from "../../../ui/hours/lanes";
import { addDays, weekday } from "../../../ui/text";

export type Section = Schemas["SectionResponse"];

/** A section, and what becomes of it: the server says so. */
export type Entry = Pick<Schemas["WeekEntryResponse"], "section" | "state" | "clashes" | "tight">;
export type WeekEntryState = Entry["state"];

export type Placed = Entry & Placing & { room: string };

/** The classes of the week that begins on a Monday, side by side where they overlap. */
export function placeWeek(entries: Entry[], monday: string): Placed[] {
  const sunday = addDays(monday, 6);
  return place(entries, (dates) =>
    dates.filter((date) => date >= monday && date <= sunday).map(weekday),
  );
}

/** A week that stands for the whole term: every hour on which a section ever meets, once. */
export function placeTerm(entries: Entry[]): Placed[] {
  return place(entries, (dates) => dates.map(weekday));
}

/** Classes on the days that each meeting has, an hour of a section once a day. */
function place(entries: Entry[], daysOf: (dates: string[]) => number[]): Placed[] {
  const found: Placed[] = [];
  for (const entry of entries) {
    const hours = new Map<string, Placed>();
    for (const { dates, start, end, room } of entry.section.meetings) {
      for (const day of daysOf(dates))
        hours.set(`${day}-${start}-${end}`, { ...entry, day, start, end, room, lane: 0, lanes: 1 });
    }
    found.push(...hours.values());
  }
  found.sort((a, b) => a.day - b.day || a.start - b.start || b.end - a.end);
  spreadOverlaps(found);
  return found;
}

/** Whole hours that hold everything, at least from 8 to 18. */
export function hoursOf(entries: Entry[]): [number, number] {
  let from = 8;
  let to = 18;
  for (const { section } of entries) {
    for (const { start, end } of section.meetings) {
      from = Math.min(from, Math.floor(start / 60));
      to = Math.max(to, Math.ceil(end / 60));
    }
  }
  return [from, to];
}
