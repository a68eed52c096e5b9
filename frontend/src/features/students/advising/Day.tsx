import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { advisingDayQuery } from "../../../api/queries";
import { ProblemNotice } from "../../../ui/Notice";
import { Reading } from "../../../ui/Page";
import { counted, shortMoment } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OutcomeList } from "../../registration/changes/OutcomeList";
import { Unreleased } from "./Unreleased";

/** Who needs the advisor now, the most pressing first. */
export function Day({ session }: { session: SignedIn }) {
  const { term = "" } = useParams();
  const found = useQuery(advisingDayQuery(term));
  if (!found.data)
    return found.isError ? (
      <ProblemNotice problem={found.error} />
    ) : (
      <Reading what="who needs you" />
    );
  const { unreleased, stopped, requests, plans } = found.data;
  const isQuiet = unreleased.length + stopped.length + requests + plans.length === 0;
  return (
    <section aria-labelledby="day" className="mt-2 mb-8">
      <h2 id="day" className="border-b border-ink pb-1 text-[20px]">
        Who needs you now
      </h2>
      {isQuiet && <p className="py-3 text-soft">Nobody, as far as Gremba can tell.</p>}
      {(requests > 0 || plans.length > 0) && (
        <p className="border-b border-hair py-2">
          {requests > 0 && (
            <Link className="link mr-5" to={`/advising/${term}/requests`}>
              {counted(requests, "request waits", "requests wait")} for your answer
            </Link>
          )}
          {plans.map(({ student, full_name }) => (
            <Link key={student} className="link mr-5" to={`/advising/${student}/${term}/plan`}>
              {full_name} has a plan to agree
            </Link>
          ))}
        </p>
      )}
      {unreleased.length > 0 && <Unreleased students={unreleased} session={session} term={term} />}
      {stopped.length > 0 && (
        <>
          <h3 className="mt-5 mb-1 font-sans text-[14px] font-semibold">
            {counted(stopped.length, "cart", "carts")} of which something would be stopped
          </h3>
          <ul className="border-t border-hair">
            {stopped.map((cart) => (
              <StoppedCart key={cart.student.id} cart={cart} session={session} term={term} />
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

type CartProps = { cart: Schemas["StoppedCartResponse"]; session: SignedIn; term: string };

/** One cart with what stops it; its verdicts in place, on demand. */
function StoppedCart({ cart, session, term }: CartProps) {
  const { student, stops, passing } = cart;
  return (
    <li
      className="border-b border-hair py-1.5 text-[13px]"
      data-testid={`stopped-${student.username}`}
    >
      <details>
        <summary className="grid cursor-pointer gap-x-4 md:grid-cols-[190px_minmax(0,1fr)_180px]">
          <span className="font-semibold">{student.full_name}</span>
          <span>
            <b className="font-semibold text-madder">Stopped.</b> {stops[0]}
            {stops.length > 1 && ` And ${stops.length - 1} more.`}
          </span>
          <span className="text-soft md:text-right">
            {counted(passing, "goes", "go")} through
            {student.window_opens_at &&
              `, ${shortMoment(new Date(student.window_opens_at), session.zone)}`}
          </span>
        </summary>
        <div className="mt-2 max-w-[640px] bg-surface">
          <OutcomeList outcomes={cart.outcomes} isAhead />
        </div>
        <Link
          className="link mt-1 inline-block py-1"
          to={`/advising/${student.id}/${term}/schedule`}
        >
          To {student.full_name}’s week and cart
        </Link>
      </details>
    </li>
  );
}
