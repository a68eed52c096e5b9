import { lazy, memo, Suspense } from "react";
import type { Schemas } from "../../../api/client";
import { credits } from "../../../ui/text";
import { SectionLine } from "../section/SectionLine";
import { useMine } from "../section/useMine";

export type Line = Schemas["CourseRow"] | Schemas["SectionRow"];

type LineProps = { line: Line; term: string; starred: boolean; agreed: boolean };

/** A course, or one of its sections below it. */
export function ResultLine({ line, term, starred, agreed }: LineProps) {
  if (line.kind === "course") return <CourseLine row={line} agreed={agreed} />;
  return (
    <div className="border-b border-hair">
      <SectionLine row={line} term={term} starred={starred} />
    </div>
  );
}

// Only for those who are signed in.
const WantIt = lazy(async () => ({ default: (await import("../../timetables/WantIt")).WantIt }));

type CourseProps = { row: Schemas["CourseRow"]; agreed: boolean };

const CourseLine = memo(function CourseLine({ row, agreed }: CourseProps) {
  const { has } = useMine();
  const { credits_least, credits_most } = row;
  const worth =
    credits_least === credits_most
      ? credits(credits_least)
      : `${credits_least} to ${credits_most} credits`;
  return (
    <div className="border-b border-hair pt-4">
      <div className="flex min-w-0 items-baseline gap-x-2.5 border-t border-ink pt-1 pb-1">
        <h2
          className="shrink-0 text-[18px] leading-snug max-sm:shrink sm:max-w-[68%] sm:truncate"
          title={`${row.key} ${row.title}`}
        >
          {row.key} <span className="ml-1">{row.title}</span>
        </h2>
        <span className="shrink-0 text-[13px] text-soft">{worth}</span>
        {agreed && <span className="shrink-0 text-[13px] font-semibold text-pine">agreed</span>}
        {has && (
          <Suspense>
            <WantIt course={row.key} />
          </Suspense>
        )}
        {row.needs && (
          <span className="min-w-0 truncate text-small text-soft" title={`Needs ${row.needs}`}>
            needs {row.needs}
          </span>
        )}
        {row.counts.length > 0 && (
          <span className="ml-auto shrink-0 truncate text-small text-soft max-sm:hidden">
            {row.counts.join(", ")}
          </span>
        )}
      </div>
    </div>
  );
});
