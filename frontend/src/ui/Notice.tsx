import type { ReactNode } from "react";
import { Problem } from "../api/problem";

const TONES = {
  stop: "border-l-madder text-ink",
  warning: "border-l-ochre text-ink",
  note: "border-l-woad text-ink",
};

/** A message that belongs to a place on the page. */
export function Notice({ tone, children }: { tone: keyof typeof TONES; children: ReactNode }) {
  return (
    <div className={`border-l-4 bg-surface px-3 py-2 text-[13px] ${TONES[tone]}`} role="status">
      {children}
    </div>
  );
}

/** A problem in the server's own words. */
export function ProblemNotice({ problem }: { problem: Error }) {
  const detail = problem instanceof Problem ? problem.detail : "Try again in a moment.";
  return (
    <Notice tone="stop">
      <strong className="font-semibold">{problem.message}.</strong> {detail}
    </Notice>
  );
}
