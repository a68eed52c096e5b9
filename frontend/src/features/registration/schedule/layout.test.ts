import { describe, expect, test } from "vitest";
import { TINTS, tintsOf } from "../../../ui/hours/tints";
import { addDays, weekday } from "../../../ui/text";
import { type Entry, hoursOf, type Placed, placeTerm, placeWeek } from "./layout";

const MONDAY = "2027-08-23";

type Hours = { days: number[]; start: number; end: number; weeks?: number };

/** A section that meets on these days from the Monday on, so many weeks. */
function section(number: string, ...hours: Hours[]): Entry {
  const meetings = hours.map(({ days, start, end, weeks = 1 }) => ({
    dates: Array.from({ length: weeks }, (_, week) =>
      days.map((day) => addDays(MONDAY, 7 * week + day)),
    ).flat(),
    start,
    end,
    room: "Kiln 2",
  }));
  const made = { number, course: `KILN ${number}`, meetings };
  return { section: made, state: "registered", clashes: false, tight: false } as unknown as Entry;
}

const brief = (placed: Placed[]) =>
  placed.map(({ section: { number }, day, lane, lanes }) => `${number}@${day} ${lane}/${lanes}`);

describe("a week", () => {
  test("has each class on its day, and none of another week", () => {
    const one = section("1", { days: [0, 2], start: 600, end: 675, weeks: 3 });
    expect(brief(placeWeek([one], MONDAY))).toEqual(["1@0 0/1", "1@2 0/1"]);
    expect(brief(placeWeek([one], addDays(MONDAY, 21)))).toEqual([]);
  });
  test("puts what overlaps side by side, and what only touches below", () => {
    const placed = placeWeek(
      [
        section("1", { days: [0], start: 600, end: 660 }),
        section("2", { days: [0], start: 630, end: 690 }),
        section("3", { days: [0], start: 690, end: 720 }),
        section("4", { days: [1], start: 600, end: 660 }),
      ],
      MONDAY,
    );
    expect(brief(placed)).toEqual(["1@0 0/2", "2@0 1/2", "3@0 0/1", "4@1 0/1"]);
  });
  test("uses a lane again as soon as it is free", () => {
    const placed = placeWeek(
      [
        section("1", { days: [0], start: 480, end: 720 }),
        section("2", { days: [0], start: 480, end: 540 }),
        section("3", { days: [0], start: 540, end: 600 }),
      ],
      MONDAY,
    );
    expect(brief(placed)).toEqual(["1@0 0/2", "2@0 1/2", "3@0 1/2"]);
  });
});

test("a term's week has an hour once, however many weeks it runs", () => {
  const one = section("1", { days: [0, 2], start: 600, end: 675, weeks: 15 });
  expect(brief(placeTerm([one]))).toEqual(["1@0 0/1", "1@2 0/1"]);
});

test("on random weeks nothing overlaps in its lane, nothing is lost, and lanes are as many as needed", () => {
  // A fixed sequence (linear congruential, the constants of Numerical Recipes, from memory).
  let seed = 7;
  const random = (below: number) => {
    seed = (1664525 * seed + 1013904223) % 4294967296;
    return Math.floor((seed / 4294967296) * below);
  };
  for (let round = 0; round < 300; round += 1) {
    const entries = Array.from({ length: 1 + random(7) }, (_, n) => {
      const start = 480 + 30 * random(12);
      return section(String(n), { days: [random(3)], start, end: start + 30 + 30 * random(5) });
    });
    const placed = placeWeek(entries, MONDAY);
    expect(placed.length).toBe(entries.length);
    for (const one of placed) {
      expect(one.lane).toBeLessThan(one.lanes);
      expect(weekday(one.section.meetings[0]?.dates[0] ?? "")).toBe(one.day);
      for (const other of placed) {
        const meet = one.day === other.day && one.start < other.end && other.start < one.end;
        if (one !== other && meet) {
          expect(one.lane).not.toBe(other.lane);
          expect(one.lanes).toBe(other.lanes);
        }
      }
    }
    for (const day of [0, 1, 2]) {
      const own = placed.filter((p) => p.day === day);
      const atOnce = (minute: number) =>
        own.filter((p) => p.start <= minute && minute < p.end).length;
      const most = Math.max(0, ...own.map(({ start }) => atOnce(start)));
      expect(Math.max(0, ...own.map(({ lanes }) => lanes))).toBe(most);
    }
  }
});

test("the hours hold everything, and at least 8 to 18", () => {
  expect(hoursOf([])).toEqual([8, 18]);
  expect(hoursOf([section("1", { days: [0], start: 450, end: 1261 })])).toEqual([7, 22]);
});

test("a subject keeps its tint, and there are as many as needed", () => {
  const sections = "KILN SOIL KILN BAKE APIC WOOD LOOM EXTRA"
    .split(" ")
    .map((subject) => ({ course: `${subject} 110` }) as Entry["section"]);
  const tints = tintsOf(sections);
  expect(tints.size).toBe(7);
  expect(tints.get("KILN")).toBe(TINTS[0]);
  expect(tints.get("EXTRA")).toBe(TINTS[0]);
});
