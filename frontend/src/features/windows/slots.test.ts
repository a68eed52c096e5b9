import { describe, expect, it } from "vitest";
import { assignmentBars, bandsOf, type Draft, openingBars, ruleOf } from "./slots";

describe("bands", () => {
  it("are read with most credits first", () => {
    expect(bandsOf("81, 54,27")).toEqual([81, 54, 27]);
    expect(bandsOf("")).toEqual([]);
  });
  it("are not guessed", () => {
    expect(bandsOf("27, 54")).toBeNull();
    expect(bandsOf("54, 54")).toBeNull();
    expect(bandsOf("many")).toBeNull();
    expect(bandsOf("30, 0")).toBeNull();
  });
});

describe("bars", () => {
  it("are named by the campus' own time, wherever this runs", () => {
    const [bar] = openingBars([{ opens_at: "2027-10-18T08:00:00-04:00", many: 60 }]);
    expect(bar).toEqual({ day: "2027-10-18", time: "08:00", many: [60] });
  });
  it("have a place for each part, and one for what is kept", () => {
    const slot = {
      opens_at: "2027-10-18T08:00:00-04:00",
      part: 1,
      assigned: 7,
      kept: 2,
      expected: 9,
    };
    const assignment = { parts: ["a", "b"], slots: [slot] };
    const bars = assignmentBars(assignment as Parameters<typeof assignmentBars>[0]);
    expect(bars[0]?.many).toEqual([0, 7, 2]);
  });
});

const DRAFT: Draft = {
  firstDay: "2027-10-18",
  weekdays: "MTWRF",
  starts: 480,
  ends: 1020,
  slotMinutes: 30,
  capacity: 60,
  closesDay: "2027-11-12",
  closesAt: 1020,
  bands: "81",
  groups: [],
  seed: " chestnut ",
};

describe("the rule of a form", () => {
  it("says when the windows close in campus time", () => {
    expect(ruleOf(DRAFT)).toMatchObject({ closes_at: "2027-11-12T17:00:00", seed: "chestnut" });
  });
  it("is none while something is missing", () => {
    for (const lacks of [
      { firstDay: "" },
      { weekdays: "" },
      { starts: null },
      { seed: "  " },
      { bands: "x" },
      { capacity: Number.NaN },
      { groups: [{ kind: "cohort" as const, value: "" }] },
    ])
      expect(ruleOf({ ...DRAFT, ...lacks })).toBeNull();
  });
});
