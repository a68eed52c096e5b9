import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { deskQuery } from "../../../api/accountQueries";
import { api, type Schemas, take } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { ReasonForm } from "../../../ui/ReasonForm";
import { money } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OfficeTabs } from "../../office/OfficeTabs";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { PaidLine } from "../statement/PaidLine";
import { type StatementLine, StatementTable } from "../statement/StatementTable";
import { longMoment } from "../statement/words";
import { AnticipatedPaymentForm } from "./AnticipatedPaymentForm";
import { FeeHolds } from "./FeeHolds";
import { PostForm } from "./PostForm";

type Desk = Schemas["DeskResponse"];
type Opened = "post" | "anticipated" | "keep" | null;

/** A student's account, with everything the cashier does about it. */
export function DeskPage({ session }: { session: SignedIn }) {
  const { id = "" } = useParams();
  const { term } = usePageSubject();
  const student = /^\d{1,9}$/.test(id) ? Number(id) : 0;
  const desk = useQuery(deskQuery(term, student));
  if (!desk.data)
    return (
      <Page title="Account" aside={<OfficeTabs of="cashier" />}>
        {desk.isError ? (
          <div className="mt-4">
            <ProblemNotice problem={desk.error} />
          </div>
        ) : (
          <Reading what="the account" />
        )}
      </Page>
    );
  return <OpenDesk desk={desk.data} term={term} session={session} />;
}

function OpenDesk({ desk, term, session }: { desk: Desk; term: string; session: SignedIn }) {
  const client = useQueryClient();
  const announce = useAnnounce();
  const [opened, setOpened] = useState<Opened>(null);
  const [undoing, setUndoing] = useState<number | null>(null);
  const { account, student } = desk;
  const path = { term, student };
  const kept = (said: string) => (now: Desk) => {
    client.setQueryData(deskQuery(term, student).queryKey, now);
    announce(said);
    setOpened(null);
    setUndoing(null);
  };
  const undo = useMutation({
    mutationFn: ({ entry, reason }: { entry: number; reason: string }) =>
      take(
        api.POST("/api/terms/{term}/accounts/{student}/entries/{entry}/undoing", {
          params: { path: { ...path, entry } },
          body: { reason },
        }),
      ),
    onSuccess: kept("Undone."),
  });
  const keep = useMutation({
    mutationFn: (reason: string | null) =>
      take(
        reason === null
          ? api.DELETE("/api/terms/{term}/accounts/{student}/seats-kept", { params: { path } })
          : api.PUT("/api/terms/{term}/accounts/{student}/seats-kept", {
              params: { path },
              body: { reason },
            }),
      ),
    onSuccess: kept("Noted."),
  });
  const withdraw = useMutation({
    mutationFn: (anticipated_payment: number) =>
      take(
        api.DELETE(
          "/api/terms/{term}/accounts/{student}/anticipated-payments/{anticipated_payment}",
          {
            params: { path: { ...path, anticipated_payment } },
          },
        ),
      ),
    onSuccess: kept("The anticipated payment is withdrawn."),
  });
  const toggle = (which: Opened) => setOpened(opened === which ? null : which);
  const problem = undo.error ?? keep.error ?? withdraw.error;
  const act = (line: StatementLine) =>
    line.undoable && line.entry !== null ? (
      <Button look="link" className="ml-3" onClick={() => setUndoing(line.entry)}>
        Undo<span className="sr-only"> entry {line.entry}</span>
      </Button>
    ) : null;
  return (
    <Page
      title={desk.full_name}
      beside={<span className="text-soft">{desk.username}</span>}
      aside={<OfficeTabs of="cashier" />}
    >
      <div className="mt-2 border-t border-ink pt-3">
        <p data-testid="owes">
          {account.next ? (
            <>
              <b className="font-semibold">{money(account.next.open_cents)}</b> due by{" "}
              {longMoment(account.next.at, session.zone)}: {account.next.why}.
            </>
          ) : account.balance_cents > 0 ? (
            `${money(account.balance_cents)} is open; nothing of it is due.`
          ) : account.balance_cents < 0 ? (
            `${money(-account.balance_cents)} was paid too much.`
          ) : (
            "Nothing is open."
          )}{" "}
          {account.joined && `Pays in ${account.joined}.`}
        </p>
        {account.asking_back && (
          <p className="mt-1 text-madder">
            Seats were taken back on {longMoment(account.asking_back.lost_at, session.zone)}:{" "}
            {account.asking_back.why}.
          </p>
        )}
        <PaidLine account={account} />
        <StatementTable account={account} act={act} />
        {undoing !== null && (
          <ReasonForm
            label={`Why entry ${undoing} is undone`}
            button="Undo it"
            isPending={undo.isPending}
            onReason={(reason) => undo.mutate({ entry: undoing, reason })}
            onCancel={() => setUndoing(null)}
          />
        )}
        {problem && (
          <div className="mt-2">
            <ProblemNotice problem={problem} />
          </div>
        )}
        <div className="mt-4 flex flex-wrap gap-3">
          <Button aria-expanded={opened === "post"} onClick={() => toggle("post")}>
            Post an entry
          </Button>
          <Button aria-expanded={opened === "anticipated"} onClick={() => toggle("anticipated")}>
            Anticipated payment
          </Button>
          {desk.spared ? (
            <Button disabled={keep.isPending} onClick={() => keep.mutate(null)}>
              Keep the seats no more
            </Button>
          ) : (
            <Button aria-expanded={opened === "keep"} onClick={() => toggle("keep")}>
              Keep the seats
            </Button>
          )}
        </div>
        {opened === "post" && (
          <PostForm desk={desk} term={term} onPosted={kept("The entry is posted.")} />
        )}
        {opened === "anticipated" && (
          <AnticipatedPaymentForm
            student={student}
            term={term}
            onNoted={kept("The anticipated payment is added.")}
          />
        )}
        {opened === "keep" && (
          <ReasonForm
            label="Why the seats are kept although they are not paid for"
            button="Keep the seats"
            isPending={keep.isPending}
            onReason={(reason) => keep.mutate(reason)}
            onCancel={() => setOpened(null)}
          />
        )}
        {desk.spared && <p className="mt-2 text-[13px]">The seats are kept: {desk.spared}</p>}
        {desk.anticipated_payments.length > 0 && (
          <section aria-labelledby="anticipated" className="mt-6">
            <h2 id="anticipated" className="text-[20px]">
              Anticipated payments
            </h2>
            <ul className="mt-1 border-t border-ink text-[13px]">
              {desk.anticipated_payments.map((payment) => (
                <li
                  key={payment.id}
                  className="flex flex-wrap items-center gap-x-4 border-b border-hair py-1.5"
                >
                  <span className="flex-1">
                    {payment.label} <span className="text-soft">({payment.kind})</span>
                  </span>
                  <span className="tabular-nums">
                    {money(payment.amount_cents)}
                    {payment.open_cents !== payment.amount_cents &&
                      `, ${money(payment.open_cents)} to come`}
                  </span>
                  <Button
                    look="quiet"
                    disabled={withdraw.isPending}
                    onClick={() => withdraw.mutate(payment.id)}
                  >
                    Withdraw<span className="sr-only"> the payment of {payment.label}</span>
                  </Button>
                </li>
              ))}
            </ul>
          </section>
        )}
        <section aria-labelledby="holds" className="mt-6">
          <h2 id="holds" className="border-b border-ink pb-1 text-[20px]">
            Fee holds
          </h2>
          <FeeHolds student={student} session={session} />
        </section>
      </div>
    </Page>
  );
}
