import { expect, test } from "vitest";
import { longMoment, seats, typedCents } from "./words";

test("a moment in full is that of the campus", () => {
  const zone = "America/New_York";
  expect(longMoment("2027-08-13T21:00:00Z", zone)).toBe("Friday 13 August, 17:00");
  expect(longMoment("2027-12-10T04:05:00Z", zone)).toBe("Thursday 9 December, 23:05");
});

test("seats are counted in words as far as one reads them at a glance", () => {
  expect([seats(1), seats(4), seats(14)]).toEqual(["one seat", "four seats", "14 seats"]);
});

test("sums are read as they are typed, and nothing is guessed", () => {
  expect(["12", "12.5", "1,240.00", " 7.05 "].map(typedCents)).toEqual([1200, 1250, 124000, 705]);
  for (const wrong of ["", "12,50", "1.240,00", "-5", "1e3", "12.345", "12,0", "9999999"])
    expect(typedCents(wrong), wrong).toBeNull();
});
