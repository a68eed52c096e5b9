import { expect, test } from "vitest";
import { applyReadings } from "./usePlainWords";

const reading = (filter: string, value: string) => ({ filter, value, text: "", said: "" });

test("what was read stands beside what was chosen, and the other words stay", () => {
  const params = new URLSearchParams(
    "words=evening tuesday clay open&day=R&seats=waitlist&number=1*",
  );
  applyReadings(
    params,
    [
      reading("part", "evening"),
      reading("day", "T"),
      reading("day", "R"),
      reading("seats", "open"),
      reading("no_textbook_cost", "yes"),
      reading("time_from", "1020"),
      reading("number", "240"),
    ],
    "clay",
  );
  expect(params.getAll("day")).toEqual(["R", "T"]);
  expect(params.get("part")).toBe("evening");
  // Of a filter with one value the chosen one stays.
  expect(params.get("seats")).toBe("waitlist");
  expect(params.get("no_textbook_cost")).toBe("true");
  expect(params.get("time_from")).toBe("1020");
  expect(params.get("number")).toBe("1* 240");
  expect(params.get("words")).toBe("clay");
});

test("where nothing is left there are no words", () => {
  const params = new URLSearchParams("words=online");
  applyReadings(params, [reading("campus", "online")], "");
  expect(params.has("words")).toBe(false);
});
