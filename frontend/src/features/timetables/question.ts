/** The question of Timetables as it lives in the address of the page: short, and readable in a link. */
import type { Schemas } from "../../api/client";
import { clockTime } from "../../ui/text";

export type Question = Schemas["QuestionSchema"];
export type Want = Schemas["WantSchema"];
export type KeptFree = Schemas["KeptFreeSchema"];
export type Criterion = Question["order"][number];

export const NO_QUESTION: Question = {
  wants: [],
  kept_free: [],
  may_move: [],
  keeps: [],
  order: [],
  seats: "left",
  no_tight_ways: false,
};

export const CRITERIA: Record<Criterion, string> = {
  "starts late": "starts late",
  "ends early": "ends early",
  "days free": "whole days free",
  "few gaps": "few gaps",
  "short days": "short days",
  "few ways": "few ways between campuses",
  "seats left": "seats left",
  starred: "starred sections",
  "few changes": "fewest changes",
};

export const WEEKDAYS = "MTWRFSU";

/** Parts of the address that hold the question. */
export const PARTS = ["want", "free", "move", "keep", "best", "seats", "ways"] as const;

/** The names of what narrows a want, as they stand in the address. */
const NARROWED = {
  not: "without",
  only: "only",
  with: "instructors",
  at: "campuses",
  by: "deliveries",
  in: "sessions",
} as const;

export function wantOf(...courses: string[]): Want {
  return {
    courses,
    tag: "",
    count: 1,
    is_needed: true,
    without: [],
    only: [],
    instructors: [],
    campuses: [],
    deliveries: [],
    sessions: [],
  };
}

/** `CERM 105, TXTL 110; 2; if it fits; at hillfoot,online`, or `toward Craft`. */
export function writeWant(want: Want): string {
  const parts = [want.tag ? `toward ${want.tag}` : want.courses.join(", ")];
  if (want.count > 1) parts.push(String(want.count));
  if (!want.is_needed) parts.push("if it fits");
  for (const [word, name] of Object.entries(NARROWED))
    if (want[name].length) parts.push(`${word} ${want[name].join(",")}`);
  return parts.join("; ");
}

export function readWant(text: string): Want | null {
  const [what = "", ...parts] = text.split(";").map((part) => part.trim());
  const tag = /^toward (.+)$/.exec(what)?.[1] ?? "";
  const courses = tag ? [] : what.split(",").map((key) => key.trim().toUpperCase());
  const want = { ...wantOf(...new Set(courses.filter(Boolean))), tag };
  if (!tag && want.courses.length === 0) return null;
  for (const part of parts) {
    const [, word = "", values = ""] = /^(\S+) (.+)$/.exec(part) ?? [];
    if (/^[1-4]$/.test(part)) want.count = Number(part);
    else if (part === "if it fits") want.is_needed = false;
    else if (word in NARROWED)
      want[NARROWED[word as keyof typeof NARROWED]] = values.split(",").map((v) => v.trim());
  }
  return want;
}

/** `TR 13:00-24:00; Work; rather; 2027-10-01 to 2027-10-31` */
export function writeFree(kept: KeptFree): string {
  const days = kept.weekdays.map((day) => WEEKDAYS[day]).join("");
  const parts = [`${days} ${clockTime(kept.start)}-${clockTime(kept.end)}`];
  if (kept.label) parts.push(kept.label.replaceAll(";", ","));
  if (!kept.is_must) parts.push("rather");
  if (kept.first || kept.last) parts.push(`${kept.first ?? ""} to ${kept.last ?? ""}`.trim());
  return parts.join("; ");
}

const HOURS = /^([MTWRFSU]+) (\d{1,2}):(\d\d)-(\d{1,2}):(\d\d)$/;
const DATES = /^(\d{4}-\d\d-\d\d)? ?to ?(\d{4}-\d\d-\d\d)?$/;

export function readFree(text: string): KeptFree | null {
  const [hours = "", ...parts] = text.split(";").map((part) => part.trim());
  const found = HOURS.exec(hours);
  if (!found) return null;
  const [, days = "", fromHour, fromMinute, toHour, toMinute] = found;
  const kept: KeptFree = {
    weekdays: [...new Set(days)].map((day) => WEEKDAYS.indexOf(day)).sort(),
    start: Number(fromHour) * 60 + Number(fromMinute),
    end: Number(toHour) * 60 + Number(toMinute),
    label: "",
    is_must: true,
    first: null,
    last: null,
  };
  for (const part of parts) {
    const dates = DATES.exec(part);
    if (part === "rather") kept.is_must = false;
    else if (dates) {
      kept.first = dates[1] ?? null;
      kept.last = dates[2] ?? null;
    } else kept.label = part;
  }
  return kept;
}

function numbersOf(text: string | null): string[] {
  return (text ?? "").split(",").filter((number) => /^\d{5}$/.test(number));
}

/** The question that an address holds; what cannot be read is told and left aside. */
export function readQuestion(params: URLSearchParams): { question: Question; strange: string[] } {
  const strange: string[] = [];
  const read = <T>(name: string, reader: (text: string) => T | null): T[] =>
    params.getAll(name).flatMap((text) => {
      const found = reader(text);
      if (found === null) strange.push(text);
      return found ?? [];
    });
  const best = (params.get("best") ?? "").split(",").filter(Boolean);
  const seats = params.get("seats");
  return {
    strange,
    question: {
      wants: read("want", readWant),
      kept_free: read("free", readFree),
      may_move: numbersOf(params.get("move")),
      keeps: numbersOf(params.get("keep")),
      order: best.filter((name): name is Criterion => name in CRITERIA).slice(0, 3),
      seats: seats === "waitlist" || seats === "all" ? seats : "left",
      no_tight_ways: params.get("ways") === "easy",
    },
  };
}

/** Puts a question into an address, in the place of the one that is there. */
export function writeQuestion(params: URLSearchParams, question: Question): void {
  for (const name of PARTS) params.delete(name);
  for (const want of question.wants) params.append("want", writeWant(want));
  for (const kept of question.kept_free) params.append("free", writeFree(kept));
  if (question.may_move.length) params.set("move", question.may_move.join(","));
  if (question.keeps.length) params.set("keep", question.keeps.join(","));
  if (question.order.length) params.set("best", question.order.join(","));
  if (question.seats !== "left") params.set("seats", question.seats);
  if (question.no_tight_ways) params.set("ways", "easy");
}
