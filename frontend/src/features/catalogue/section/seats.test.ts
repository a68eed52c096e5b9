import { expect, test } from "vitest";
import type { Seats } from "../../../api/stream";
import { hasRoom, seatWords } from "./seats";

const seats = (figures: Partial<Seats>): Seats => ({
  limit: 24,
  taken: 24,
  offered: 0,
  left: 0,
  reserved: 0,
  waiting: 0,
  waitlist_limit: 8,
  ...figures,
});
const words = (figures: Partial<Seats>) => {
  const { main, rest } = seatWords(seats(figures));
  return main + rest;
};

test("what is left is said first, then what of it is not for everybody", () => {
  expect(words({ left: 7, taken: 17 })).toBe("7 left of 24");
  expect(words({ left: 6, taken: 17, offered: 1, reserved: 4 })).toBe(
    "6 left of 24, 1 offered, 4 kept for some",
  );
});

test("what is full says whether it can be waited for", () => {
  expect(words({ waiting: 3 })).toBe("full, 3 of 8 waiting");
  expect(words({ waiting: 8 })).toBe("full, waitlist full");
  expect(words({ waitlist_limit: 0 })).toBe("full, 24 seats, no waitlist");
});

test("there is room on a waitlist until it is full", () => {
  expect([7, 8, 9].map((waiting) => hasRoom(seats({ waiting })))).toEqual([true, false, false]);
  expect(hasRoom(seats({ waitlist_limit: 0 }))).toBe(false);
});
