import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { timetableQuery } from "../../api/fitsQueries";
import { cartQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { ProblemNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Page";
import { dayAndTime } from "../../ui/text";
import { useSearch } from "../../ui/useSearch";
import type { SignedIn } from "../session/useSignedIn";
import { usePageSubject } from "../subject/usePageSubject";
import { TermSheet } from "../week/TermSheet";

/** A timetable that is only thought of, on one page of paper. */
export function FitsPrintPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const [params] = useSearch();
  const numbers = params.get("at") ?? "";
  const found = useQuery(timetableQuery(subject.term, numbers));
  const cart = useQuery(cartQuery(subject));
  const name = found.data?.term.name ?? "";
  useEffect(() => {
    document.title = `Timetable, ${name} · Gremba`;
  }, [name]);
  const problem = found.error ?? cart.error;
  return (
    <main className="mx-auto max-w-[900px] p-6 print:max-w-none print:p-0">
      <div className="mb-4 flex gap-3 print:hidden">
        <Button onClick={() => window.print()}>Print</Button>
        <Link className="link self-center" to={`${subject.base}/fits?${params}`}>
          Back to Fits
        </Link>
      </div>
      {problem && <ProblemNotice problem={problem} />}
      {!numbers && <p>There is no timetable in this address. Go back to Fits and choose one.</p>}
      {found.data && cart.data ? (
        <>
          <div className="flex items-baseline justify-between gap-4">
            <h1 className="text-[24px]">
              {cart.data.student}, {name}
            </h1>
            <p className="text-small text-soft">
              {session.college}, as of {dayAndTime(new Date(session.now), session.zone)}
            </p>
          </div>
          <p className="text-soft">A timetable that fits. Nothing of it is registered by this.</p>
          <TermSheet sections={found.data.sections} term={found.data.term} />
        </>
      ) : (
        !problem && numbers && <Reading what="the timetable" />
      )}
    </main>
  );
}
