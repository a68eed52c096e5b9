import { lazy, Suspense } from "react";
import { ResultLine } from "./ResultLine";
import type { ResultsProps } from "./resultsProps";

// What draws only the lines in sight is not needed for the first of them.
const AllResults = lazy(async () => ({ default: (await import("./AllResults")).AllResults }));

/** So many lines fill a screen, mostly. */
const FIRST = 16;

/** The results: the first lines at once, and then all. */
export function Results(props: ResultsProps) {
  const { first, term, stars, agreed } = props;
  const firstLines = first.rows
    .slice(0, FIRST)
    .map((line) => (
      <ResultLine
        key={line.kind === "course" ? line.key : line.number}
        line={line}
        term={term}
        starred={line.kind === "section" && stars.has(line.number)}
        agreed={line.kind === "course" && agreed.has(line.key)}
      />
    ));
  return (
    <Suspense fallback={firstLines}>
      <AllResults {...props} />
    </Suspense>
  );
}
