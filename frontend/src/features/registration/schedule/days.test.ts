import { expect, test } from "vitest";
import { gapWords, nextDayWords } from "./days";
import type { Placed } from "./layout";

test("between two classes it says how long there is", () => {
  const between = (end: number, start: number) =>
    gapWords({ start: 0, end }, { start, end: start });
  expect(between(645, 840)).toBe("3 hours 15 minutes free");
  expect(between(600, 660)).toBe("1 hour free");
  expect(between(600, 615)).toBe("15 minutes free");
  expect(between(600, 600)).toBe("Straight on");
  expect(between(600, 590)).toBe("At the same time");
});

test("the next day is the next one that has something", () => {
  const placed = [
    { day: 0, start: 540, section: { name: "SOIL 110" } },
    { day: 2, start: 840, section: { name: "LAWS 240" } },
    { day: 2, start: 600, section: { name: "HIST 250" } },
  ] as Placed[];
  expect(nextDayWords(placed, 0, "2027-08-23")).toBe("Next: Wed 25, HIST 250 at 10:00.");
  expect(nextDayWords(placed, 2, "2027-08-23")).toBe("Nothing more in this week.");
});
