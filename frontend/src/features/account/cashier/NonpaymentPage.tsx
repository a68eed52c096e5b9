import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { nonpaymentDropsQuery, nonpaymentLinesQuery } from "../../../api/accountQueries";
import { api, type Schemas, take } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { counted, dayAndTime, listed, money, shortDay } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OfficeTabs } from "../../office/OfficeTabs";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { longMoment } from "../statement/words";

type NonpaymentDate = Schemas["NonpaymentDateResponse"];
type NonpaymentDropLine = Schemas["NonpaymentLineResponse"];

/** The due dates on which seats are lost: whom each would reach, and what it did. */
export function NonpaymentPage({ session }: { session: SignedIn }) {
  const { term } = usePageSubject();
  const drops = useQuery(nonpaymentDropsQuery(term));
  return (
    <Page title="Drop for nonpayment" aside={<OfficeTabs of="cashier" />}>
      {drops.isError && (
        <div className="mt-4">
          <ProblemNotice problem={drops.error} />
        </div>
      )}
      {drops.isPending && <Reading what="the due dates" />}
      {drops.data?.length === 0 && (
        <p className="mt-3 border-t border-ink py-3 text-soft">
          No drops for nonpayment this term.
        </p>
      )}
      {drops.data?.map((drop) => (
        <NonpaymentOfDate key={drop.at} drop={drop} term={term} session={session} />
      ))}
    </Page>
  );
}

type Props = { drop: NonpaymentDate; term: string; session: SignedIn };

function NonpaymentOfDate({ drop, term, session }: Props) {
  const client = useQueryClient();
  const announce = useAnnounce();
  const [shown, setShown] = useState(false);
  const make = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/terms/{term}/nonpayment-drops", {
          params: { path: { term } },
          body: { at: drop.at },
        }),
      ),
    onSuccess: (drops) => {
      client.setQueryData(nonpaymentDropsQuery(term).queryKey, drops);
      announce("Drops complete.");
    },
    onSettled: () => client.invalidateQueries({ queryKey: ["owing", term] }),
  });
  const isDone = drop.done_at !== null;
  return (
    <section
      className="mt-4 border-t border-ink pt-3"
      aria-label={longMoment(drop.at, session.zone)}
    >
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <h2 className="text-[20px]">{longMoment(drop.at, session.zone)}</h2>
        <p className="flex-1 text-soft">
          {drop.percent}% of charges
          {drop.registered_through &&
            ` for classes registered by ${shortDay(drop.registered_through)}`}
        </p>
        <Button aria-expanded={shown} onClick={() => setShown(!shown)}>
          {isDone ? "View results" : "Preview"}
        </Button>
        {drop.has_come && !isDone && (
          <Button look="main" disabled={make.isPending} onClick={() => make.mutate()}>
            {make.isPending ? "Dropping…" : "Drop unpaid students"}
          </Button>
        )}
      </div>
      {isDone && drop.done_at && (
        <p className="mt-1" data-testid="nonpayment-done">
          Run {dayAndTime(new Date(drop.done_at), session.zone)}:{" "}
          {counted(drop.lost, "student", "students")} dropped, {drop.spared} exempt, {drop.settled}{" "}
          paid.
        </p>
      )}
      {!isDone && drop.begun_at && (
        <p className="mt-1 text-ochre">
          Started {dayAndTime(new Date(drop.begun_at), session.zone)}, still running: {drop.lost}{" "}
          dropped so far.
        </p>
      )}
      {!isDone && !drop.has_come && (
        <p className="mt-1 text-[13px] text-soft">
          Runs automatically at that time.
          {drop.warn_days.length > 0 &&
            ` Affected students are warned ${listed(drop.warn_days.map(String))} days before.`}
        </p>
      )}
      {make.error && <ProblemNotice problem={make.error} />}
      {shown && <Lines drop={drop} term={term} isDone={isDone} />}
    </section>
  );
}

function Lines({ drop, term, isDone }: { drop: NonpaymentDate; term: string; isDone: boolean }) {
  const found = useInfiniteQuery(nonpaymentLinesQuery(term, drop.at, isDone));
  const { hasNextPage, isFetching, isError, fetchNextPage } = found;
  useEffect(() => {
    if (hasNextPage && !isFetching && !isError) fetchNextPage();
  }, [hasNextPage, isFetching, isError, fetchNextPage]);
  const pages = found.data?.pages ?? [];
  const lines = pages.flatMap((page) => page.lines);
  const looked = pages.reduce((sum, page) => sum + page.looked_at, 0);
  const lost = lines.filter(({ result }) => result === "seats lost");
  const spared = lines.filter(({ result }) => result === "spared");
  return (
    <div className="mt-3">
      {found.error && <ProblemNotice problem={found.error} />}
      <p className="text-[13px] text-soft" role="status">
        {hasNextPage || found.isPending
          ? `${looked.toLocaleString("en-US")} students checked…`
          : isDone
            ? `${counted(lost.length, "student", "students")} dropped, ${spared.length} exempt.`
            : `As of now, ${lost.length} of ${counted(looked, "student", "students")} would be dropped and ${spared.length} are exempt.`}
      </p>
      <NonpaymentTable title="Dropped" lines={lost} term={term} />
      <NonpaymentTable title="Exempt" lines={spared} term={term} />
    </div>
  );
}

const SHOWN = 100;

function NonpaymentTable({
  title,
  lines,
  term,
}: {
  title: string;
  lines: NonpaymentDropLine[];
  term: string;
}) {
  const [all, setAll] = useState(false);
  if (lines.length === 0) return null;
  return (
    <table className="mt-3 w-full text-[13px]">
      <caption className="text-left font-semibold">
        {title} <span className="font-normal text-soft">{lines.length}</span>
      </caption>
      <thead className="sr-only">
        <tr>
          <th scope="col">Student</th>
          <th scope="col">Amount short</th>
          <th scope="col">Why</th>
        </tr>
      </thead>
      <tbody>
        {lines.slice(0, all ? undefined : SHOWN).map((line) => (
          <tr
            key={line.student}
            className="border-t border-hair align-baseline max-md:flex max-md:flex-wrap max-md:gap-x-3"
          >
            <th scope="row" className="py-1 pr-4 text-left font-normal whitespace-nowrap">
              <Link className="link" to={`/fees/${term}/${line.student}`}>
                {line.full_name}
              </Link>
            </th>
            <td className="py-1 pr-4 text-right tabular-nums">{money(line.owed_cents)}</td>
            <td className="w-full py-1 text-soft">
              {line.why}
              {line.sections.length > 0 && ` (${line.sections.join(", ")})`}
            </td>
          </tr>
        ))}
      </tbody>
      {lines.length > SHOWN && !all && (
        <tfoot>
          <tr>
            <td colSpan={3} className="py-2">
              <Button onClick={() => setAll(true)}>All {lines.length}</Button>
            </td>
          </tr>
        </tfoot>
      )}
    </table>
  );
}
