import { describe, expect, test } from "vitest";
import { commonStops, consequences, type Outcome, ownFindings, verdictOf } from "./verdict";

type Finding = Outcome["findings"][number];

const finding = (severity: Finding["severity"], common = false, text = "Why."): Finding => ({
  code: "some.code",
  severity,
  text,
  facts: {},
  remedies: [],
  ask: "",
  common,
});
const outcome = (more: Partial<Outcome>): Outcome =>
  ({
    kind: "add",
    result: "accepted",
    withdrawn: false,
    refund_cents: 0,
    findings: [],
    ...more,
  }) as Outcome;

describe("a verdict", () => {
  test("says before what will be, and afterwards what has been", () => {
    expect(verdictOf(outcome({}), " at 09:00")).toEqual({
      word: "Will go through at 09:00.",
      tone: "pine",
    });
    expect(verdictOf(outcome({}), null).word).toBe("Went through.");
    expect(verdictOf(outcome({ result: "waiting" }), "").word).toBe("You would wait.");
    expect(verdictOf(outcome({ result: "waiting" }), null).word).toBe("You wait for it.");
  });
  test("minds a warning, and no note", () => {
    const minded = outcome({ findings: [finding("warning")] });
    expect(verdictOf(minded, "")).toEqual({ word: "Goes through, but mind:", tone: "ochre" });
    expect(verdictOf(outcome({ findings: [finding("note")] }), "").tone).toBe("pine");
  });
  test("is stopped by what is about the change; what stops everything is said once, above", () => {
    const own = outcome({ result: "refused", findings: [finding("stop")] });
    const common = outcome({ result: "refused", findings: [finding("stop", true)] });
    expect(verdictOf(own, "")).toEqual({ word: "Stopped.", tone: "madder" });
    expect(verdictOf(common, "").word).toBe("Not yet, as said above.");
    expect(verdictOf(common, null).word).toBe("Stopped.");
  });
});

test("what stops all alike is said once, and not on each", () => {
  const hold = finding("stop", true, "A fee hold.");
  const both = [
    outcome({ result: "refused", findings: [hold, finding("stop", false, "It is full.")] }),
    outcome({ result: "refused", findings: [hold] }),
    outcome({ findings: [finding("note", true, "Not a stop.")] }),
  ];
  expect(commonStops(both).map(({ text }) => text)).toEqual(["A fee hold."]);
  expect(both.map((o) => ownFindings(o).map(({ text }) => text))).toEqual([
    ["It is full."],
    [],
    [],
  ]);
});

test("giving a section up says what it leaves and what it brings back", () => {
  expect(consequences(outcome({ kind: "add" }))).toEqual([]);
  expect(consequences(outcome({ kind: "drop" }))).toEqual(["leaves no trace"]);
  expect(consequences(outcome({ kind: "swap", withdrawn: true, refund_cents: 12_000 }))).toEqual([
    "leaves a W",
    "120.00 no longer due",
  ]);
  expect(consequences(outcome({ kind: "drop", refund_cents: 73_500 }), "2027-08-27")).toEqual([
    "leaves no trace",
    "735.00 comes back until 27 Aug 24:00",
  ]);
  expect(consequences(outcome({ kind: "drop", result: "refused" }))).toEqual([]);
});
