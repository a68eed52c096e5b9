import { expect, test } from "vitest";
import {
  freeDays,
  hoursWords,
  minutesOf,
  numberWords,
  placeWords,
  planOf,
  summary,
  type Timetable,
} from "./words";

const TIMETABLE: Timetable = {
  place: 0,
  numbers: ["30001", "30002"],
  parts: [],
  differs: [],
  start: 570,
  end: 1010,
  gaps: 1,
  days: [0, 2],
  credits: 6,
  breaks: [],
  stops: [],
  is_in_order: true,
};

test("how many there are, and how far that is known", () => {
  const words = (number: number, is_exact = true, is_beyond = false) =>
    numberWords({ number, is_exact, is_beyond }).join(" ");
  expect(words(672)).toBe("672 timetables work");
  expect(words(1)).toBe("One timetable works");
  expect(words(0)).toBe("No timetable works; here is why");
  expect(words(0, false)).toBe("No timetable works; here is why");
  expect(words(20000, false)).toBe("at least 20,000 timetables work");
  expect(words(10000001, true, true)).toBe("more than 10 million timetables work");
});

test("places in the order", () => {
  expect([0, 7, 8, 10, 11, 20, 21, 1110].map(placeWords)).toEqual([
    "The first",
    "The eighth",
    "The 9th",
    "The 11th",
    "The 12th",
    "The 21st",
    "The 22nd",
    "The 1,111th",
  ]);
});

test("a timetable in few words", () => {
  expect(summary(TIMETABLE)).toBe("starts 09:30, 1 gap, Tue and Thu and Fri free, 6 credits");
  expect(summary({ ...TIMETABLE, start: null, end: null, days: [] })).toBe(
    "no set times, 6 credits",
  );
  expect(freeDays({ ...TIMETABLE, days: [0, 1, 2, 3, 4, 5] })).toEqual([]);
});

test("hours kept free, and as people write them", () => {
  const kept = { weekdays: [1, 3], start: 780, end: 1440, label: "", is_must: true };
  expect(hoursWords(kept)).toBe("Tue Thu from 13:00");
  expect(hoursWords({ ...kept, weekdays: [0, 1, 2, 3, 4], start: 0, end: 570 })).toBe(
    "Mon to Fri before 09:30",
  );
  expect(["13:00", "1300", "9.30", "24:00", "24:01", "12:75", "noon", ""].map(minutesOf)).toEqual([
    780,
    780,
    570,
    1440,
    null,
    null,
    null,
    null,
  ]);
});

test("a plan of the cart is known by its sections", () => {
  const plan = (name: string, ...numbers: string[]) => ({
    id: 1,
    name,
    changes: numbers.map((number) => ({
      kind: "add" as const,
      section: { name: "", number },
      in_exchange: "",
    })),
    is_whole: true,
    stops: [],
  });
  expect(planOf(TIMETABLE, [plan("A", "30001"), plan("B", "30002", "30001")])).toBe("B");
  expect(planOf(TIMETABLE, [plan("A")])).toBe("");
});
