import type { Schemas } from "../../../api/client";

type Evidence = Schemas["EvidenceResponse"];

const WORDS = { met: "met", provisional: "in progress", unmet: "not met" } as const;
const COLOURS = { met: "text-pine", provisional: "text-ochre", unmet: "text-madder" } as const;

/** A course's requisites, branch by branch, with what the record shows for each. */
export function RequisiteTree({ evidence }: { evidence: Evidence }) {
  return (
    <details className="mt-1">
      <summary className="w-fit py-[3px] text-soft hover:text-ink">
        What it needs, point by point
      </summary>
      <ul className="mt-1">
        <Node evidence={evidence} />
      </ul>
    </details>
  );
}

function Node({ evidence }: { evidence: Evidence }) {
  const { parts, least, state } = evidence;
  const head =
    parts.length === 0
      ? evidence.need
      : least === null
        ? "All of these"
        : least === 1
          ? "Any of these"
          : `${least} of these`;
  return (
    <li>
      {head}: <b className={`font-semibold ${COLOURS[state]}`}>{WORDS[state]}</b>
      {parts.length === 0 && evidence.fact && <span className="text-soft"> ({evidence.fact})</span>}
      {parts.length > 0 && (
        <ul className="ml-1 border-l border-hair pl-2.5">
          {parts.map((part) => (
            <Node key={part.need + part.fact} evidence={part} />
          ))}
        </ul>
      )}
    </li>
  );
}
