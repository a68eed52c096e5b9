import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { receiptsQuery } from "../../../api/queries";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { credits, shortMoment } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";

/** Every sending, newest first. */
export function ReceiptsPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const receipts = useQuery(receiptsQuery(subject));
  return (
    <Page title="Receipts" aside="Kept as they were written, never altered">
      {receipts.isPending && <Reading what="your receipts" />}
      {receipts.isError && !receipts.data && <ProblemNotice problem={receipts.error} />}
      {receipts.data?.receipts.length === 0 && (
        <p className="mt-3 border-t border-ink py-3 text-soft">
          Nothing has been put through in this term yet. Every sending leaves a receipt here.
        </p>
      )}
      {receipts.data && receipts.data.receipts.length > 0 && (
        <ul className="mt-3 border-t border-ink">
          {receipts.data.receipts.map((receipt) => (
            <li
              key={receipt.id}
              className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-0.5 border-b border-hair py-2.5 md:grid-cols-[92px_132px_1fr_100px]"
            >
              <Link className="link" to={`${subject.base}/confirmations/${receipt.id}`}>
                Receipt <span className="number">{receipt.id}</span>
              </Link>
              <span className="text-soft">
                {shortMoment(new Date(receipt.sent_at), session.zone)}
              </span>
              <div className="max-md:col-span-2">
                {receipt.accepted.length > 0 && (
                  <p>
                    <b className="font-semibold text-pine">Went through:</b>{" "}
                    {receipt.accepted.join(", ")}
                  </p>
                )}
                {receipt.waiting.length > 0 && (
                  <p>
                    <b className="font-semibold text-woad">Waiting:</b> {receipt.waiting.join(", ")}
                  </p>
                )}
                {receipt.refused.length > 0 && (
                  <p>
                    <b className="font-semibold text-madder">Stopped:</b>{" "}
                    {receipt.refused.join(", ")}
                  </p>
                )}
                {receipt.sent_by !== session.person.full_name && (
                  <p className="text-soft">sent by {receipt.sent_by}</p>
                )}
              </div>
              <span className="text-right text-soft max-md:col-span-2">
                then {credits(receipt.credits_after)}
              </span>
            </li>
          ))}
        </ul>
      )}
      {receipts.data?.more && <p className="mt-2 text-soft">Only the latest fifty are shown.</p>}
    </Page>
  );
}
