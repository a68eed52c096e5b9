import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { confirmationsQuery } from "../../../api/queries";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { credits, shortMoment } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";

/** Every sending, newest first. */
export function ConfirmationsPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const confirmations = useQuery(confirmationsQuery(subject));
  return (
    <Page title="Confirmations" aside="Kept as they were written, never altered">
      {confirmations.isPending && <Reading what="your confirmations" />}
      {confirmations.isError && !confirmations.data && (
        <ProblemNotice problem={confirmations.error} />
      )}
      {confirmations.data?.confirmations.length === 0 && (
        <p className="mt-3 border-t border-ink py-3 text-soft">
          Nothing has been put through in this term yet. Every sending leaves a confirmation here.
        </p>
      )}
      {confirmations.data && confirmations.data.confirmations.length > 0 && (
        <ul className="mt-3 border-t border-ink">
          {confirmations.data.confirmations.map((confirmation) => (
            <li
              key={confirmation.id}
              className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-0.5 border-b border-hair py-2.5 md:grid-cols-[92px_132px_1fr_100px]"
            >
              <Link className="link" to={`${subject.base}/confirmations/${confirmation.id}`}>
                Confirmation <span className="number">{confirmation.id}</span>
              </Link>
              <span className="text-soft">
                {shortMoment(new Date(confirmation.sent_at), session.zone)}
              </span>
              <div className="max-md:col-span-2">
                {confirmation.accepted.length > 0 && (
                  <p>
                    <b className="font-semibold text-pine">Went through:</b>{" "}
                    {confirmation.accepted.join(", ")}
                  </p>
                )}
                {confirmation.waiting.length > 0 && (
                  <p>
                    <b className="font-semibold text-woad">Waiting:</b>{" "}
                    {confirmation.waiting.join(", ")}
                  </p>
                )}
                {confirmation.refused.length > 0 && (
                  <p>
                    <b className="font-semibold text-madder">Stopped:</b>{" "}
                    {confirmation.refused.join(", ")}
                  </p>
                )}
                {confirmation.sent_by !== session.person.full_name && (
                  <p className="text-soft">sent by {confirmation.sent_by}</p>
                )}
              </div>
              <span className="text-right text-soft max-md:col-span-2">
                then {credits(confirmation.credits_after)}
              </span>
            </li>
          ))}
        </ul>
      )}
      {confirmations.data?.more && (
        <p className="mt-2 text-soft">Only the latest fifty are shown.</p>
      )}
    </Page>
  );
}
