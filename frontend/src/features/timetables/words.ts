/** What is said of timetables, in few words. */
import type { Schemas } from "../../api/client";
import { clockTime, counted, credits } from "../../ui/text";
import type { KeptFree, Question } from "./question";

export type Timetable = Schemas["TimetableResponse"];

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const PLACES = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth"];

/** `672 timetables work`, or how much of it is known. */
export function numberWords(answer: {
  number: number;
  is_exact: boolean;
  is_beyond: boolean;
}): [string, string] {
  const { number, is_exact, is_beyond } = answer;
  if (is_beyond) return ["more than 10 million", "timetables work"];
  const shown = number.toLocaleString("en-US");
  if (number === 0) return ["No", "timetable works; here is why"];
  if (!is_exact) return [`at least ${shown}`, "timetables work"];
  return number === 1 ? ["One", "timetable works"] : [shown, "timetables work"];
}

/** `The first`, `The 14th`. */
export function placeWords(place: number): string {
  const word = PLACES[place];
  if (word) return `The ${word}`;
  const n = place + 1;
  const end = n % 100 > 10 && n % 100 < 14 ? "th" : (["th", "st", "nd", "rd"][n % 10] ?? "th");
  return `The ${n.toLocaleString("en-US")}${end}`;
}

export function gapWords(gaps: number): string {
  return gaps === 0 ? "no gap" : counted(gaps, "gap", "gaps");
}

/** `starts 9:30, one gap, Fri free, 16 credits` */
export function summary(timetable: Timetable): string {
  const { start, gaps, credits: worth } = timetable;
  const free = freeDays(timetable);
  const parts = [
    start === null ? "no set times" : `starts ${clockTime(start)}`,
    start === null ? "" : gapWords(gaps),
    free.length ? `${free.join(" and ")} free` : "",
    credits(worth),
  ];
  return parts.filter(Boolean).join(", ");
}

/** Weekdays without class, Monday to Friday. */
export function freeDays({ days, start }: Timetable): string[] {
  return start === null ? [] : DAYS.slice(0, 5).filter((_, day) => !days.includes(day));
}

/** `Tue Thu 13:00–17:00`, `Tue Thu from 13:00`, `Mon before 9:30`. */
export function hoursWords({ weekdays, start, end }: KeptFree): string {
  const every = weekdays.length === 5 && weekdays.every((day) => day < 5);
  const days = every ? "Mon to Fri" : weekdays.map((day) => DAYS[day]).join(" ");
  if (start === 0 && end === 1440) return days;
  if (end === 1440) return `${days} from ${clockTime(start)}`;
  if (start === 0) return `${days} before ${clockTime(end)}`;
  return `${days} ${clockTime(start)}–${clockTime(end)}`;
}

/** `5 wanted, 1 kept free` */
export function askedWords({ wants, kept_free, keeps }: Question): string {
  const parts = [
    `${wants.length} wanted`,
    kept_free.length ? `${counted(kept_free.length, "time", "times")} kept free` : "",
    keeps.length ? `${keeps.length} kept in place` : "",
  ];
  return parts.filter(Boolean).join(", ");
}

/** The letter of the plan in the cart that is this timetable; empty if none is. */
export function planOf(timetable: Timetable, plans: Schemas["PlanResponse"][]): string {
  const numbers = new Set(timetable.numbers);
  const same = ({ changes }: Schemas["PlanResponse"]) =>
    changes.length > 0 &&
    changes.length === numbers.size &&
    changes.every(({ section }) => numbers.has(section.number));
  return plans.find(same)?.name ?? "";
}

/** `13:00`, `1300`, `13` or `9.30` as minutes since midnight; 24:00 is the end of the day. */
export function minutesOf(text: string): number | null {
  const found = /^\s*(\d{1,2})(?:[:.]?(\d\d))?\s*$/.exec(text);
  if (!found) return null;
  const minutes = Number(found[1]) * 60 + Number(found[2] ?? 0);
  return Number(found[2] ?? 0) < 60 && minutes <= 24 * 60 ? minutes : null;
}
