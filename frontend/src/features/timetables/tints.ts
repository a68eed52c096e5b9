import { TINTS, type Tint } from "../../ui/hours/tints";
import type { OnWall, Rows } from "./useTimetables";

/**
 * A tint for each subject, those in most timetables first. Once all are taken, a further subject
 * shares the tint of those it stands beside least often. Only the first timetables count, so that
 * tints stay as the wall grows.
 */
export function tintsOfWall(rows: Rows, wall: OnWall[]): Map<string, Tint> {
  const weeks = wall
    .slice(0, 50)
    .map(({ timetable }) => new Set(timetable.numbers.map((number) => subjectOf(rows[number]))));
  return tintsOf(Object.values(rows).map(subjectOf), weeks);
}

export function tintsOf(all: string[], weeks: Set<string>[]): Map<string, Tint> {
  const shared: string[][] = TINTS.map(() => []);
  const tints = new Map<string, Tint>();
  const often = (subject: string) => weeks.filter((week) => week.has(subject)).length;
  const subjects = [...new Set(all)].sort((a, b) => often(b) - often(a));
  for (const subject of subjects) {
    const [chosen] = TINTS.map((tint, place) => {
      const others = shared[place] ?? [];
      const meets = weeks.filter(
        (week) => week.has(subject) && others.some((one) => week.has(one)),
      );
      return { tint, others, meets: meets.length };
    }).sort((a, b) => a.meets - b.meets || a.others.length - b.others.length);
    if (!chosen) continue;
    chosen.others.push(subject);
    tints.set(subject, chosen.tint);
  }
  return tints;
}

function subjectOf(row: Rows[string] | undefined): string {
  return row?.course.split(" ")[0] ?? "";
}
