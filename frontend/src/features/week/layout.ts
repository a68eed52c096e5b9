/** From sections to what is drawn on the grid of one week. */
import type { Schemas } from "../../api/client";
import { addDays, weekday } from "../../ui/text";

export type Section = Schemas["SectionResponse"];

/** A section, and what becomes of it: the server says so. */
export type Entry = Pick<Schemas["WeekEntry"], "section" | "state" | "clashes" | "tight">;
export type WeekEntryState = Entry["state"];

export type Placed = Entry & {
  day: number;
  start: number;
  end: number;
  room: string;
  lane: number;
  lanes: number;
};

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

function spreadOverlaps(placed: Placed[]): void {
  let cluster: Placed[] = [];
  let until = -1;
  let day = -1;
  const close = () => {
    const ends: number[] = [];
    for (const item of cluster) {
      const free = ends.findIndex((end) => end <= item.start);
      item.lane = free < 0 ? ends.length : free;
      ends[item.lane] = item.end;
    }
    for (const item of cluster) item.lanes = ends.length;
    cluster = [];
  };
  for (const item of placed) {
    if (item.day !== day || item.start >= until) {
      close();
      until = -1;
      day = item.day;
    }
    cluster.push(item);
    until = Math.max(until, item.end);
  }
  close();
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

/** Tints by subject, in the order in which the subjects first come up. */
export const TINTS = [
  { fill: "#e2e6ee", edge: "#3c5577" },
  { fill: "#f1e3c6", edge: "#835508" },
  { fill: "#eedfda", edge: "#8c4a3c" },
  { fill: "#e6e0ee", edge: "#5e4a7d" },
  { fill: "#dde8e1", edge: "#1f5b4e" },
  { fill: "#e9e6cf", edge: "#66631c" },
] as const;

export type Tint = (typeof TINTS)[number];

export function tintsOf(sections: Section[]): Map<string, Tint> {
  const tints = new Map<string, Tint>();
  for (const { course } of sections) {
    const subject = course.split(" ")[0] ?? course;
    const tint = TINTS[tints.size % TINTS.length];
    if (!tints.has(subject) && tint) tints.set(subject, tint);
  }
  return tints;
}
