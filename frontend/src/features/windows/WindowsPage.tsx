import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useMemo } from "react";
import type { Schemas } from "../../api/client";
import { termWindowsQuery } from "../../api/registrarQueries";
import { ProblemNotice } from "../../ui/Notice";
import { Page, Reading } from "../../ui/Page";
import { counted, dayAndTime } from "../../ui/text";
import type { SignedIn } from "../access/session/useSignedIn";
import { OfficeTabs } from "../office/OfficeTabs";
import { usePageSubject } from "../students/subject/usePageSubject";
import { Assignment } from "./Assignment";
import { openingBars } from "./slots";

const SlotPicture = lazy(async () => ({ default: (await import("./SlotPicture")).SlotPicture }));

/** When the students of a term may register: assigned by a rule that anybody can check. */
export function WindowsPage({ session }: { session: SignedIn }) {
  const { term } = usePageSubject();
  const found = useQuery(termWindowsQuery(term));
  return (
    <Page title="Windows" aside={<OfficeTabs of="registrar" />}>
      {found.isPending && <Reading what="the windows" />}
      {found.isError && (
        <div className="mt-4">
          <ProblemNotice problem={found.error} />
        </div>
      )}
      {found.data && (
        // Another term is another form.
        <Windows key={term} windows={found.data} term={term} session={session} />
      )}
    </Page>
  );
}

type Props = { windows: Schemas["WindowsResponse"]; term: string; session: SignedIn };

function Windows({ windows, term, session }: Props) {
  const { students, without, opening, assignments } = windows;
  const bars = useMemo(() => openingBars(opening), [opening]);
  return (
    <>
      <p className="mt-3 border-t border-ink pt-3 text-soft">
        {students.toLocaleString("en-US")} {students === 1 ? "student is" : "students are"}{" "}
        expected;{" "}
        {without === 0
          ? "each has a window."
          : without === students
            ? "none has a window yet."
            : `${without.toLocaleString("en-US")} have no window yet.`}
      </p>
      {opening.length > 0 && (
        <section className="mt-5" aria-labelledby="opening">
          <h2 id="opening" className="text-[20px]">
            When they open
          </h2>
          <Suspense fallback={<Reading what="the picture" />}>
            <SlotPicture bars={bars} parts={["windows"]} />
          </Suspense>
        </section>
      )}
      <Assignment windows={windows} term={term} />
      {assignments.length > 0 && (
        <section className="mt-9" aria-labelledby="assignments">
          <h2 id="assignments" className="text-[20px]">
            Published
          </h2>
          <ul className="mt-2 border-t border-ink">
            {assignments.map(({ id, assigned, moved, rule, published_at, published_by }) => (
              <li key={id} className="border-b border-hair py-2">
                {counted(assigned, "window", "windows")}
                {moved > 0 && `, ${moved} of them moved`}, by {published_by},{" "}
                {dayAndTime(new Date(published_at), session.zone)}.{" "}
                <span className="text-soft">
                  {rule.capacity} a slot of {rule.slot_minutes} minutes, drawn with the seed{" "}
                  <span className="number text-ink">{rule.seed}</span>.
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
