/** How an outcome is worded: before sending, and afterwards. */
import type { Schemas } from "../../../api/client";
import { money, shortDay } from "../../../ui/text";

export type Outcome = Schemas["OutcomeResponse"];
type Finding = Schemas["FindingResponse"];

export type Tone = "pine" | "ochre" | "madder" | "woad";

/** @param when what comes behind "will go through", such as " at 09:00"; null when it is done. */
export function verdictOf(outcome: Outcome, when: string | null): { word: string; tone: Tone } {
  const done = when === null;
  if (outcome.result === "refused") {
    if (!done && !hasOwnStop(outcome)) return { word: "Not yet, as said above.", tone: "woad" };
    return { word: "Stopped.", tone: "madder" };
  }
  if (outcome.result === "waiting") {
    return { word: done ? "You wait for it." : `You would wait${when}.`, tone: "woad" };
  }
  const hasWarning = outcome.findings.some((finding) => finding.severity === "warning");
  if (hasWarning)
    return {
      word: done ? "Went through, but mind:" : `Goes through${when}, but mind:`,
      tone: "ochre",
    };
  return { word: done ? "Went through." : `Will go through${when}.`, tone: "pine" };
}

/** Whether something about this very change stops it, not only what stops everything alike. */
export function hasOwnStop(outcome: Outcome): boolean {
  return outcome.findings.some((finding) => finding.severity === "stop" && !finding.common);
}

/** What stops every change alike, once, to be said at the top and not on each. */
export function commonStops(outcomes: Outcome[]): Finding[] {
  const stopped = outcomes.filter((outcome) =>
    outcome.findings.some((finding) => finding.severity === "stop" && finding.common),
  );
  const found = new Map<string, Finding>();
  for (const finding of stopped.flatMap((outcome) => outcome.findings)) {
    if (finding.common) found.set(finding.text, finding);
  }
  return [...found.values()];
}

export function ownFindings(outcome: Outcome): Finding[] {
  return outcome.findings.filter((finding) => !finding.common);
}

export const VERBS = {
  add: "Add",
  drop: "Drop",
  swap: "Swap to",
  adjust: "Adjust",
  wait: "Wait for",
} as const;

/** What was chosen for it beside the usual, in words. */
export function choicesOf(outcome: Outcome): string {
  return outcome.unusual ? outcome.grading : "";
}

/** What giving a section up would leave behind and bring back; `through` is the last day on which it brings
 * back as much. */
export function consequences(outcome: Outcome, through?: string | null): string[] {
  const givesUp = outcome.kind === "drop" || outcome.kind === "swap";
  if (!givesUp || outcome.result !== "accepted") return [];
  const still = through ? `comes back until ${shortDay(through)} 24:00` : "no longer due";
  const back = outcome.refund_cents > 0 ? [`${money(outcome.refund_cents)} ${still}`] : [];
  return [outcome.withdrawn ? "leaves a W" : "leaves no trace", ...back];
}
