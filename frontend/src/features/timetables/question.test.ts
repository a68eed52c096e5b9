import { expect, test } from "vitest";
import {
  NO_QUESTION,
  type Question,
  readFree,
  readQuestion,
  readWant,
  wantOf,
  writeFree,
  writeQuestion,
  writeWant,
} from "./question";

const FULL: Question = {
  wants: [
    { ...wantOf("SOIL 240"), without: ["30299"], campuses: ["hillfoot", "online"] },
    { ...wantOf("CERM 105", "TXTL 110"), count: 2, is_needed: false },
    { ...wantOf(), tag: "Land science", deliveries: ["live online"], instructors: ["Quill"] },
    { ...wantOf("MATH 120"), only: ["30100", "30101"], sessions: ["full"] },
  ],
  kept_free: [
    {
      weekdays: [1, 3],
      start: 780,
      end: 1440,
      label: "Work",
      is_must: true,
      first: null,
      last: null,
    },
    {
      weekdays: [0],
      start: 480,
      end: 570,
      label: "",
      is_must: false,
      first: "2027-10-01",
      last: "2027-10-31",
    },
  ],
  may_move: ["30001"],
  keeps: ["30002", "30003"],
  order: ["starts late", "few gaps"],
  seats: "waitlist",
  no_tight_ways: true,
};

test("a question put into an address is read out of it again", () => {
  const params = new URLSearchParams("at=30001&section=30002");
  writeQuestion(params, FULL);
  expect(readQuestion(new URLSearchParams(params.toString()))).toEqual({
    question: FULL,
    strange: [],
  });
  expect(params.get("at")).toBe("30001");
});

test("no question leaves nothing in the address", () => {
  const params = new URLSearchParams("at=30001");
  writeQuestion(params, FULL);
  writeQuestion(params, NO_QUESTION);
  expect(params.toString()).toBe("at=30001");
});

test("wants read as people would write them", () => {
  expect(writeWant({ ...wantOf("SOIL 240"), is_needed: false })).toBe("SOIL 240; if it fits");
  expect(readWant("soil 240 ; not 30299,30300")).toEqual({
    ...wantOf("SOIL 240"),
    without: ["30299", "30300"],
  });
  expect(readWant("; not 30299")).toBeNull();
});

test("hours read as people would write them", () => {
  expect(writeFree(readFree("TR 13:00-17:30; Work") as never)).toBe("TR 13:00-17:30; Work");
  expect(readFree("TR 13-17")).toBeNull();
  expect(readFree("RT 9:00-10:00")?.weekdays).toEqual([1, 3]);
});

test("what cannot be read is told", () => {
  const { question, strange } = readQuestion(
    new URLSearchParams("want=%3B&free=whenever&best=starts+late,loudest&seats=some&keep=1,30001"),
  );
  expect(strange).toEqual([";", "whenever"]);
  expect(question.order).toEqual(["starts late"]);
  expect(question.seats).toBe("left");
  expect(question.keeps).toEqual(["30001"]);
});
