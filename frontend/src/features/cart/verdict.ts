/** How an outcome is worded: before sending, and afterwards. */
import type { Schemas } from "../../api/client";

export type Outcome = Schemas["OutcomeView"];
type Finding = Schemas["FindingView"];

export type Tone = "pine" | "ochre" | "madder" | "woad";

export function verdictOf(outcome: Outcome, done: boolean): { word: string; tone: Tone } {
  if (outcome.result === "refused") {
    if (!done && !hasOwnStop(outcome)) return { word: "Not yet, as said above.", tone: "woad" };
    return { word: "Stopped.", tone: "madder" };
  }
  const heed = outcome.findings.some((finding) => finding.severity === "heed");
  if (heed)
    return { word: done ? "Went through, but mind:" : "Goes through, but mind:", tone: "ochre" };
  return { word: done ? "Went through." : "Will go through.", tone: "pine" };
}

/** Findings that are about the student, not the section: they would stand on every change. */
const ABOUT_ALL = /^(term|window|hold)\./;

/** Whether something about this very change stops it, not only what stops everything alike. */
export function hasOwnStop(outcome: Outcome): boolean {
  return outcome.findings.some(
    (finding) => finding.severity === "stop" && !ABOUT_ALL.test(finding.code),
  );
}

/** What stops every change alike, once, to be said at the top and not on each. */
export function commonStops(outcomes: Outcome[]): Finding[] {
  const stopped = outcomes.filter((outcome) =>
    outcome.findings.some((finding) => finding.severity === "stop" && ABOUT_ALL.test(finding.code)),
  );
  const found = new Map<string, Finding>();
  for (const finding of stopped.flatMap((outcome) => outcome.findings)) {
    if (ABOUT_ALL.test(finding.code)) found.set(finding.text, finding);
  }
  return [...found.values()];
}

export function ownFindings(outcome: Outcome): Finding[] {
  return outcome.findings.filter((finding) => !ABOUT_ALL.test(finding.code));
}

export const VERBS = { add: "Add", drop: "Drop" } as const;
