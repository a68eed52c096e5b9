import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { cartQuery, termQuery, weekQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { ProblemNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Page";
import { dayAndTime } from "../../ui/text";
import type { SignedIn } from "../session/useSignedIn";
import { usePageSubject } from "../subject/usePageSubject";
import { TermSheet } from "./TermSheet";

/** The registered week and list on one page of paper. */
export function PrintPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const term = useQuery(termQuery(subject.term));
  const week = useQuery(weekQuery(subject));
  const cart = useQuery(cartQuery(subject));
  useEffect(() => {
    document.title = `Week, ${term.data?.name ?? ""} · Gremba`;
  }, [term.data]);
  const problem = term.error ?? week.error ?? cart.error;
  return (
    <main className="mx-auto max-w-[900px] p-6 print:max-w-none print:p-0">
      <div className="mb-4 flex gap-3 print:hidden">
        <Button onClick={() => window.print()}>Print</Button>
        <Link className="link self-center" to={`${subject.base}/week`}>
          Back to the week
        </Link>
      </div>
      {problem && <ProblemNotice problem={problem} />}
      {term.data && week.data && cart.data ? (
        <>
          <div className="flex items-baseline justify-between gap-4">
            <h1 className="text-[24px]">
              {cart.data.student}, {term.data.name}
            </h1>
            <p className="text-small text-soft">
              {session.college}, as of {dayAndTime(new Date(session.now), session.zone)}
            </p>
          </div>
          <TermSheet
            sections={week.data.entries.filter((e) => e.registered).map((e) => e.section)}
            term={term.data}
          />
        </>
      ) : (
        !problem && <Reading what="your week" />
      )}
    </main>
  );
}
