import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { entriesQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { ProblemNotice } from "../../ui/Notice";
import { Page, Reading } from "../../ui/Page";
import { countdown, counted, shortMoment } from "../../ui/text";
import { useNow } from "../../ui/useNow";
import type { SignedIn } from "../access/session/useSignedIn";
import { useSectionLink } from "../catalogue/section/useSectionLink";
import { usePageSubject } from "../students/subject/usePageSubject";
import { Chance } from "./Chance";
import { OfferSheet } from "./OfferSheet";
import { useAnswers } from "./useAnswers";

type Entry = Schemas["WaitlistEntryResponse"];
type Props = { session: SignedIn };

/** Every place held on a waitlist, open offers first, and what became of those that ended. */
export function WaitlistsPage({ session }: Props) {
  const subject = usePageSubject();
  const found = useQuery(entriesQuery(subject));
  const entries = found.data?.entries ?? [];
  const offers = entries.filter(({ state }) => state === "offered");
  const waiting = entries.filter(({ state }) => state === "waiting");
  const ended = entries.filter(({ ended_at }) => ended_at !== null);
  return (
    <Page
      title="Waitlists"
      aside={found.data ? counted(offers.length + waiting.length, "place", "places") : ""}
    >
      {found.isPending && <Reading what="your waitlists" />}
      {found.isError && !found.data && (
        <div className="mt-4">
          <ProblemNotice problem={found.error} />
        </div>
      )}
      {found.data && offers.length + waiting.length === 0 && (
        <p className="mt-4 border-t border-ink py-4 text-soft">
          You wait for nothing. Where a section is full but its waitlist has room, Find and the cart
          offer to wait: you keep what you have, and a seat that comes is offered to the one who has
          waited longest.
        </p>
      )}
      <ul className="mt-4 space-y-4">
        {[...offers, ...waiting].map((entry) => (
          <OpenEntry key={entry.id} entry={entry} session={session} />
        ))}
      </ul>
      {ended.length > 0 && (
        <details className="mt-8">
          <summary className="w-fit py-1 text-soft hover:text-ink">
            {counted(ended.length, "place that has ended", "places that have ended")}
          </summary>
          <ul className="mt-2 border-t border-ink">
            {ended.map((entry) => (
              <li key={entry.id} className="border-b border-hair py-2.5">
                <p>
                  <b className="font-semibold">{entry.section.name}</b>{" "}
                  <span className="number">{entry.section.number}</span>: {ENDED[entry.state]}
                </p>
                <History entry={entry} session={session} />
              </li>
            ))}
          </ul>
        </details>
      )}
    </Page>
  );
}

const ENDED: Record<Entry["state"], string> = {
  waiting: "",
  offered: "",
  given: "you have the seat",
  left: "left",
  declined: "declined",
  lapsed: "not answered in time",
  closed: "closed without a seat",
};

function OpenEntry({ entry, session }: { entry: Entry; session: SignedIn }) {
  const link = useSectionLink();
  const [answering, setAnswering] = useState(false);
  const { decline, leave } = useAnswers();
  const now = useNow(session.ahead).getTime();
  const isOffer = entry.state === "offered";
  const until = entry.offer_until ? Date.parse(entry.offer_until) : 0;
  const problem = decline.error ?? leave.error;
  return (
    <li
      className={`border-l-4 bg-surface px-4 py-3.5 ${isOffer ? "border-l-plum" : "border-l-woad"}`}
      data-testid={`place-${entry.section.number}`}
    >
      <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
        <div className="min-w-[220px] flex-1">
          <h2 className="text-[19px] leading-snug">
            {entry.section.name} {entry.title}
          </h2>
          <p className="text-[13px] text-soft">
            <Link className="link number" to={link(entry.section.number)}>
              {entry.section.number}
            </Link>
            , {entry.times}
          </p>
        </div>
        <div className="flex gap-2">
          {isOffer ? (
            <>
              <Button look="main" onClick={() => setAnswering(true)}>
                Look and accept
              </Button>
              <Button disabled={decline.isPending} onClick={() => decline.mutate(entry.id)}>
                Decline
              </Button>
            </>
          ) : (
            <Button disabled={leave.isPending} onClick={() => leave.mutate(entry.id)}>
              Leave<span className="sr-only"> the waitlist of {entry.section.name}</span>
            </Button>
          )}
        </div>
      </div>
      {isOffer ? (
        <p className="mt-2">
          <b className="font-semibold text-plum">A seat is held for you</b> until{" "}
          {shortMoment(new Date(until), session.zone)}:{" "}
          <span className="number">{countdown(until - now)}</span> left. After that it goes to the
          next.{" "}
          <a className="link" href={`/api/waitlist-entries/${entry.id}/deadline`} download>
            Put the deadline into your calendar
          </a>
        </p>
      ) : (
        <p className="mt-2">
          <b className="font-semibold text-woad">
            Number {entry.position} of {entry.waiting} waiting
          </b>
          , since {shortMoment(new Date(entry.joined_at), session.zone)}. {entry.how} It closes on{" "}
          {shortMoment(new Date(entry.closes_at), session.zone)}.
        </p>
      )}
      {entry.in_exchange && (
        <p className="mt-1 text-[13px]">
          By swap: you keep {entry.in_exchange.name}{" "}
          <span className="number">{entry.in_exchange.number}</span> until the very step that gives
          you this one. Should somebody who has this want that, both of you change places at once.
        </p>
      )}
      {entry.chosen_linked_sections.length > 0 && (
        <p className="mt-1 text-[13px]">
          With{" "}
          {entry.chosen_linked_sections.map(({ name, number }) => `${name} ${number}`).join(", ")},
          if it still has a seat then.
        </p>
      )}
      {entry.chance && <Chance chance={entry.chance} />}
      <History entry={entry} session={session} />
      {problem && (
        <div className="mt-2">
          <ProblemNotice problem={problem} />
        </div>
      )}
      {answering && (
        <OfferSheet entry={entry} session={session} onClose={() => setAnswering(false)} />
      )}
    </li>
  );
}

function History({ entry, session }: { entry: Entry; session: SignedIn }) {
  return (
    <details className="mt-1.5 text-[13px]">
      <summary className="w-fit py-[3px] text-soft hover:text-ink">What has happened</summary>
      <ol className="mt-1 space-y-0.5 border-l border-hair pl-3">
        {entry.events.map(({ what, at, cause, by }) => (
          <li key={what + at}>
            <span className="number text-soft">{shortMoment(new Date(at), session.zone)}</span>{" "}
            {what}
            {cause ? `: ${cause}` : by && `, by ${by}`}
          </li>
        ))}
      </ol>
    </details>
  );
}
