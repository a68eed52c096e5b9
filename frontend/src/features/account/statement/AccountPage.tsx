import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { accountQuery } from "../../../api/accountQueries";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { dayAndTime, money } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { PaymentTold } from "../payment/PaymentTold";
import { usePaying } from "../payment/usePaying";
import { AskBack } from "./AskBack";
import { DueNow } from "./DueNow";
import { PaidLine } from "./PaidLine";
import { StatementTable } from "./StatementTable";
import { longDay } from "./words";

type Account = Schemas["AccountResponse"];

/** What the term costs and why, what is due when, and what has been paid. */
export function AccountPage({ session }: { session: SignedIn }) {
  const { term, base } = usePageSubject();
  const account = useQuery(accountQuery(term));
  if (!account.data) {
    return (
      <Page title="Account">
        {account.isError ? (
          <div className="mt-4">
            <ProblemNotice problem={account.error} />
          </div>
        ) : (
          <Reading what="your account" />
        )}
      </Page>
    );
  }
  const { data } = account;
  return (
    <Page
      title="Account"
      beside={
        <span className="text-soft">
          {data.term}
          {data.rates && `, at the rates ${data.rates}`}
        </span>
      }
      aside={
        <span className="flex gap-4">
          <Link className="link" to={`${base}/account/print`}>
            Print
          </Link>
          <a className="link" href={`/api/terms/${term}/account/file`} download>
            Table file
          </a>
        </span>
      }
    >
      <div className="mt-2 border-t border-ink">
        <PaymentTold />
        {data.asking_back && (
          <AskBack back={data.asking_back} paid={data.paid_cents} session={session} />
        )}
        {!(data.asking_back && data.balance_cents === 0) && (
          <DueNow account={data} session={session} />
        )}
        <PaidLine account={data} />
        {data.joined && <Parts account={data} session={session} />}
        {data.lines.length > 0 && <StatementTable account={data} base={base} />}
        <CardPayments account={data} session={session} />
      </div>
    </Page>
  );
}

/** The parts of the plan that was joined, each with what is open of it. */
function Parts({ account, session }: { account: Account; session: SignedIn }) {
  return (
    <section aria-labelledby="parts" className="mt-4">
      <h2 id="parts" className="text-[17px]">
        In {account.joined}
      </h2>
      <ol className="mt-1 flex flex-wrap gap-x-8 gap-y-1 border-t border-hair pt-1.5 text-[13px]">
        {account.dues.map(({ at, own_cents, open_cents, over, loses_seats }) => (
          <li key={at} className="tabular-nums">
            <span className="text-soft">{longDay(at, session.zone)}:</span> {money(own_cents)}
            {open_cents === 0 ? (
              <span className="text-pine"> paid</span>
            ) : over && loses_seats && account.keeps_from_cents !== null ? (
              <span className="text-ochre"> due now</span>
            ) : (
              over && <span className="text-madder"> overdue</span>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}

const STATES: Record<Account["payments"][number]["state"], string> = {
  waiting: "not answered yet",
  approved: "paid",
  declined: "not made",
  returned: "paid back",
};

/** Payments by card, each with what became of it. */
function CardPayments({ account, session }: { account: Account; session: SignedIn }) {
  const { ask } = usePaying();
  if (account.payments.length === 0) return null;
  return (
    <section aria-labelledby="cards" className="mt-6">
      <h2 id="cards" className="text-[17px]">
        Payments by card
      </h2>
      {ask.error && <ProblemNotice problem={ask.error} />}
      <ul className="mt-1 border-t border-ink text-[13px]">
        {account.payments.map((payment) => (
          <li
            key={payment.reference}
            className="flex flex-wrap items-center gap-x-4 gap-y-0.5 border-b border-hair py-1.5"
          >
            <span className="w-24 text-right tabular-nums">{money(payment.amount_cents)}</span>
            <span className="w-28 text-soft">
              {dayAndTime(new Date(payment.begun_at), session.zone)}
            </span>
            <span className="flex-1">{STATES[payment.state]}</span>
            <span className="number text-[12px] text-soft">{payment.reference.slice(0, 8)}</span>
            {payment.state === "waiting" && (
              <Button disabled={ask.isPending} onClick={() => ask.mutate(payment.reference)}>
                Ask what became of it
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
