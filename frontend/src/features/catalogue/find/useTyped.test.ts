import { expect, test } from "vitest";
import { comeBack } from "./useTyped";

test("what comes back late of one's own typing is known as such, and what was told before it is over", () => {
  expect(comeBack(["even", "evening", "evening t"], "evening")).toEqual({
    told: ["evening t"],
    isOwn: true,
  });
  expect(comeBack(["evening t"], "evening t")).toEqual({ told: [], isOwn: true });
});

test("what was changed from elsewhere is not, and nothing that was told counts any more", () => {
  expect(comeBack(["evening t"], "")).toEqual({ told: [], isOwn: false });
  expect(comeBack([], "clay")).toEqual({ told: [], isOwn: false });
});
