import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { answeredBeforeQuery, toAnswerQuery } from "../../../api/requestQueries";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { counted } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OfficeTabs } from "../../office/OfficeTabs";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { Delegates } from "./Delegates";
import { RequestCard } from "./RequestCard";

type Section = Schemas["SectionToAnswer"];
type Order = "came" | "rank";
type Props = { session: SignedIn };

/** What somebody has to answer: section by section, several side by side, with what a yes would do. */
export function AnswerPage({ session }: Props) {
  const { term } = usePageSubject();
  const found = useQuery(toAnswerQuery(term));
  const [order, setOrder] = useState<Order>("came");
  const sections = found.data?.sections ?? [];
  const open = sections.filter(({ requests }) => requests.some(({ is_mine }) => is_mine));
  const others = sections.filter(({ requests }) => !requests.some(({ is_mine }) => is_mine));
  const shown = (some: Section[]) =>
    some.map((section) => (
      <SectionRequests
        key={section.number}
        section={section}
        order={order}
        session={session}
        latest={found.data?.latest_until ?? ""}
      />
    ));
  return (
    <Page title="Requests" aside={<OfficeTabs of={session.person.role} />}>
      {found.isPending && <Reading what="the requests" />}
      {found.isError && !found.data && <ProblemNotice problem={found.error} />}
      {found.data && (
        <>
          <div className="mt-2 mb-4 flex flex-wrap items-baseline justify-between gap-x-6 gap-y-1">
            <p>
              {found.data.open === 0
                ? "Nobody waits for an answer of yours in this term."
                : `${counted(found.data.open, "student waits", "students wait")} for an answer of yours.`}
              {found.data.elsewhere.map(({ term: code, name, open: many }) => (
                <span key={code}>
                  {" "}
                  <Link className="link" to={`../../${code}/requests`} relative="path">
                    {counted(many, "more", "more")} in {name}
                  </Link>
                </span>
              ))}
            </p>
            {open.some(({ requests }) => requests.length > 1) && (
              <label className="text-[13px] text-soft">
                In order{" "}
                <select
                  className="rounded-sm border border-ink bg-white px-1 py-0.5 text-ink"
                  value={order}
                  onChange={(event) => setOrder(event.target.value as Order)}
                >
                  <option value="came">as they came</option>
                  <option value="rank">of credits earned</option>
                </select>
              </label>
            )}
          </div>
          {shown(open)}
          {others.length > 0 && (
            <details className="mt-8">
              <summary className="w-fit py-1 text-soft hover:text-ink">
                Answered lately, or with somebody else now
              </summary>
              {shown(others)}
            </details>
          )}
          {found.data.more !== null && (
            <Earlier term={term} before={found.data.more} session={session} />
          )}
          <Delegates delegates={found.data.delegates} />
        </>
      )}
    </Page>
  );
}

type EarlierProps = { term: string; before: number; session: SignedIn };

/** What was answered earlier, a page at a time. */
function Earlier({ term, before, session }: EarlierProps) {
  const [isOpen, setIsOpen] = useState(false);
  const found = useQuery({ ...answeredBeforeQuery(term, before), enabled: isOpen });
  if (!isOpen)
    return (
      <Button look="link" className="mt-3" onClick={() => setIsOpen(true)}>
        Show earlier answers
      </Button>
    );
  if (!found.data)
    return found.isError ? (
      <ProblemNotice problem={found.error} />
    ) : (
      <Reading what="earlier answers" />
    );
  return (
    <div className="mt-6">
      {found.data.sections.map((section) => (
        <SectionRequests
          key={section.number}
          section={section}
          order="came"
          session={session}
          latest={found.data.latest_until}
        />
      ))}
      {found.data.more !== null && (
        <Earlier term={term} before={found.data.more} session={session} />
      )}
    </div>
  );
}

type SectionProps = { section: Section; order: Order; session: SignedIn; latest: string };

function SectionRequests({ section, order, session, latest }: SectionProps) {
  const requests = [...section.requests].sort((one, other) => {
    if (one.is_mine !== other.is_mine) return one.is_mine ? -1 : 1;
    return order === "rank" ? other.credits_earned - one.credits_earned : one.id - other.id;
  });
  return (
    <section className="mb-8" aria-label={`${section.name} ${section.number}`}>
      <div className="flex flex-wrap items-baseline gap-x-3 border-b border-ink pb-1">
        <h2 className="text-[20px]">
          {section.name} {section.title}
        </h2>
        <p className="text-[13px] text-soft">
          <span className="number">{section.number}</span>, {section.times}
        </p>
        <p className="ml-auto text-[13px]">{figures(section)}</p>
      </div>
      <ul className="mt-2 grid gap-3 lg:grid-cols-2">
        {requests.map((request) => (
          <RequestCard key={request.id} request={request} session={session} latest={latest} />
        ))}
      </ul>
    </section>
  );
}

function figures({ taken, limit, room, room_left, promised, waiting, let_in }: Section): string {
  return [
    `${taken} of ${limit} taken`,
    room === null ? "no room" : `room for ${room}, ${room_left} more`,
    promised ? `${promised} promised` : "",
    waiting ? `${waiting} waiting` : "",
    let_in ? `${let_in} let in` : "",
  ]
    .filter(Boolean)
    .join(" · ");
}
