import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { confirmationQuery } from "../../../api/queries";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { credits, money, shortMoment } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { OutcomeList } from "../changes/OutcomeList";
import { PlansTold } from "../changes/PlansTold";

/** One confirmation: what was sent, and what became of each change. */
export function ConfirmationPage({ session }: { session: SignedIn }) {
  const { id = "" } = useParams();
  const subject = usePageSubject();
  const number = /^\d{1,15}$/.test(id) ? Number(id) : 0;
  const confirmation = useQuery(confirmationQuery(number, subject.student));
  const back = (
    <Link className="link" to={`${subject.base}/confirmations`}>
      All confirmations
    </Link>
  );
  if (confirmation.isPending) {
    return (
      <Page title="Confirmation" aside={back}>
        <Reading what="the confirmation" />
      </Page>
    );
  }
  if (confirmation.isError) {
    return (
      <Page title="Confirmation" aside={back}>
        <div className="mt-4">
          <ProblemNotice problem={confirmation.error} />
        </div>
      </Page>
    );
  }
  const { body, sent_at, term: termName } = confirmation.data;
  const { before, after } = body;
  const facts = [
    ["Term", termName],
    ["Sent", `${shortMoment(new Date(sent_at), session.zone)}, by ${body.sent_by}`],
    ["Asked for", body.mode === "all" ? "all or nothing" : "each change by itself"],
    ["Credits", `${before.credits} → ${credits(after.credits)}, ${after.load}`],
    ["Tuition and fees", `${money(before.charge_cents)} → ${money(after.charge_cents)}`],
  ];
  return (
    <Page title={`Confirmation ${confirmation.data.id}`} aside={back}>
      <dl className="mt-3 mb-4 grid grid-cols-[auto_1fr] gap-x-6 gap-y-0.5 border-t border-ink pt-3">
        {facts.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <div className="max-w-[640px] border-t border-hair bg-surface">
        <PlansTold plans={body.plans} />
        <OutcomeList outcomes={body.outcomes} heading="h2" />
      </div>
    </Page>
  );
}
