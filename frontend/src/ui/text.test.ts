import { describe, expect, test } from "vitest";
import {
  addDays,
  campusDay,
  clockTime,
  countdown,
  counted,
  credits,
  dayAndTime,
  dayOf,
  dayOfWeek,
  fullDay,
  minuteOf,
  mondayOf,
  money,
  shortDay,
  shortMoment,
  weekday,
} from "./text";

const NEW_YORK = "America/New_York";

test("money has two figures behind the point, and commas", () => {
  expect([0, 5, 100, 123456].map(money)).toEqual(["0.00", "0.05", "1.00", "1,234.56"]);
});

test("one of a thing is one", () => {
  expect([counted(1, "seat", "seats"), counted(0, "seat", "seats"), credits(1.5)]).toEqual([
    "1 seat",
    "0 seats",
    "1.5 credits",
  ]);
});

describe("moments", () => {
  test("are those of the campus, whatever the reader's zone", () => {
    expect(shortMoment(new Date("2027-04-19T12:52:00Z"), NEW_YORK)).toBe("Mon 19 Apr 08:52");
    expect(dayAndTime(new Date("2027-05-03T21:00:00Z"), NEW_YORK)).toBe("3 May 17:00");
  });
  test("follow the change of clocks (14 March 2027 in New York)", () => {
    expect(shortMoment(new Date("2027-03-14T06:59:00Z"), NEW_YORK)).toBe("Sun 14 Mar 01:59");
    expect(shortMoment(new Date("2027-03-14T07:00:00Z"), NEW_YORK)).toBe("Sun 14 Mar 03:00");
  });
  test("midnight is 00:00 of the day that begins", () => {
    expect(shortMoment(new Date("2027-04-19T04:00:00Z"), NEW_YORK)).toBe("Mon 19 Apr 00:00");
    expect(campusDay(new Date("2027-04-19T03:59:00Z"), NEW_YORK)).toBe("2027-04-18");
    expect(campusDay(new Date("2027-04-19T04:00:00Z"), NEW_YORK)).toBe("2027-04-19");
  });
});

test("a countdown never goes below nothing, rounds up, and speaks of days from two on", () => {
  expect([-5, 0, 1, 1000, 61_000, 3_661_000].map(countdown)).toEqual([
    "00:00:00",
    "00:00:00",
    "00:00:01",
    "00:00:01",
    "00:01:01",
    "01:01:01",
  ]);
  expect([172_799_000, 172_800_000, 260_000_000].map(countdown)).toEqual([
    "47:59:59",
    "2 days",
    "3 days",
  ]);
});

describe("days", () => {
  test("go over months, years, leap days and changes of clocks", () => {
    expect(addDays("2027-12-31", 1)).toBe("2028-01-01");
    expect(addDays("2028-02-28", 1)).toBe("2028-02-29");
    expect(addDays("2027-03-13", 2)).toBe("2027-03-15");
    expect(addDays("2027-11-08", -1)).toBe("2027-11-07");
  });
  test("every day of three years follows the one before, and its week begins on a Monday", () => {
    let day = "2027-01-01";
    for (let n = 0; n < 1100; n += 1) {
      const next = addDays(day, 1);
      expect(weekday(next)).toBe((weekday(day) + 1) % 7);
      expect(weekday(mondayOf(day))).toBe(0);
      expect(mondayOf(day) <= day && day < addDays(mondayOf(day), 7)).toBe(true);
      day = next;
    }
  });
  test("are written short", () => {
    expect([shortDay("2027-08-23"), dayOfWeek("2027-08-23")]).toEqual(["23 Aug", "Mon 23"]);
  });
});

test("minutes since midnight are a time", () => {
  expect([0, 545, 1439].map(clockTime)).toEqual(["00:00", "09:05", "23:59"]);
});

test("times are read as people type them", () => {
  expect(["17:30", " 9 ", "8.15", "0930", "23:59", "0:00"].map(minuteOf)).toEqual([
    1050, 540, 495, 570, 1439, 0,
  ]);
  for (const typed of ["", "25:00", "9:5", "9:60", "half nine", "17:30:00"])
    expect(minuteOf(typed)).toBeNull();
});

describe("a day that is typed", () => {
  const read = (text: string) => dayOf(text, "2027-04-19");
  test("is read in every way that means one day only", () => {
    const ways = [
      "23 Aug",
      "23 august",
      "Aug 23",
      "Mon 23 Aug",
      "23.8.",
      "23. 8. 2027",
      "Aug 23, 2027",
    ];
    expect(ways.map(read)).toEqual(ways.map(() => "2027-08-23"));
    expect(read(" 2026-12-01 ")).toBe("2026-12-01");
  });
  test("is the next of its name, or one of the last weeks", () => {
    expect([read("20 Apr"), read("1 Mar"), read("1 Jan"), read("29 Feb")]).toEqual([
      "2027-04-20",
      "2027-03-01",
      "2028-01-01",
      "2028-02-29",
    ]);
  });
  test("is none where it is two, or does not exist", () => {
    const odd = [
      "8/9",
      "08/09/2027",
      "31 Feb",
      "30 Foo",
      "2027-13-01",
      "0 Aug",
      "Aug",
      "12",
      "",
      "1 Aug 1",
    ];
    expect(odd.map(read)).toEqual(odd.map(() => null));
  });
  test("is written so that it is read again as the same", () => {
    for (let n = -900; n < 900; n += 1) {
      const day = addDays("2027-04-19", n);
      expect(read(fullDay(day, "2027-04-19"))).toBe(day);
    }
  });
});
