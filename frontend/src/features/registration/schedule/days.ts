/** What is said between the classes of a day, and of the day after. */
import { addDays, clockTime, counted, dayOfWeek } from "../../../ui/text";
import type { Placed } from "./layout";

type Times = { start: number; end: number };

/** How long there is between two classes, or that they overlap. */
export function gapWords(one: Times, other: Times): string {
  const minutes = other.start - one.end;
  if (minutes < 0) return "At the same time";
  if (minutes === 0) return "Straight on";
  const hours = Math.floor(minutes / 60);
  const words = [
    hours ? counted(hours, "hour", "hours") : "",
    minutes % 60 ? counted(minutes % 60, "minute", "minutes") : "",
  ].filter(Boolean);
  return `${words.join(" ")} free`;
}

/** What comes on the next day of the week that has something. */
export function nextDayWords(placed: Placed[], day: number, monday: string): string {
  const [next] = placed
    .filter((item) => item.day > day)
    .sort((a, b) => a.day - b.day || a.start - b.start);
  if (!next) return "Nothing more in this week.";
  return `Next: ${dayOfWeek(addDays(monday, next.day))}, ${next.section.name} at ${clockTime(next.start)}.`;
}
