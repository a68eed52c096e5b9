import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { dayAndTime, money } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePaying } from "../../account/payment/usePaying";
import { usePageSubject } from "../subject/usePageSubject";

type Hold = Schemas["HoldResponse"];
type Props = { clearance: Schemas["ClearanceResponse"]; session: SignedIn; isOwn: boolean };

/** Holds with their reason, what they stop, and whom to see; those with a fee can be paid here. */
export function Holds({ clearance, session, isOwn }: Props) {
  const { holds } = clearance;
  return (
    <section aria-labelledby="holds" className="mb-6">
      <h2 id="holds" className="border-b border-ink pb-1 text-[20px]">
        Holds
      </h2>
      {holds.length === 0 && <p className="py-3 text-soft">No office has placed a hold.</p>}
      <ul>
        {holds.map((hold) => (
          <HoldItem key={hold.id} hold={hold} session={session} isOwn={isOwn} />
        ))}
      </ul>
    </section>
  );
}

function HoldItem({ hold, session, isOwn }: { hold: Hold; session: SignedIn; isOwn: boolean }) {
  const { base } = usePageSubject();
  const { payHold, ask } = usePaying();
  const { waiting_payment: waiting } = hold;
  const problem = payHold.error ?? ask.error;
  const lifted = hold.lifted_at !== null;
  return (
    <li
      className={`border-b border-l-4 border-hair py-3 pl-3.5 ${lifted ? "border-l-hair" : "border-l-madder"}`}
      data-testid={`hold-${hold.id}`}
    >
      <div className="flex flex-wrap items-start gap-x-4 gap-y-1">
        <div className="min-w-0 flex-1">
          <h3 className="font-sans text-[14px] font-semibold">{hold.reason}</h3>
          {lifted && hold.lifted_at ? (
            <p className="text-[13px] text-soft">
              <b className="font-semibold text-pine">Lifted</b>{" "}
              {dayAndTime(new Date(hold.lifted_at), session.zone)}
              {hold.lifted_why && `, ${hold.lifted_why}`}.
            </p>
          ) : (
            <p className="text-[13px]">
              <b className="font-semibold text-madder">Stops</b> {hold.stops.join(", ")}.{" "}
              <span className="text-soft">
                Placed by {hold.office} on {dayAndTime(new Date(hold.placed_at), session.zone)}. To
                settle it: {hold.contact}.
              </span>
            </p>
          )}
        </div>
        {hold.by_account && isOwn && (
          <Link className="link" to={`${base}/account`}>
            To your account
          </Link>
        )}
        {hold.payable && isOwn && (
          <Button disabled={payHold.isPending} onClick={() => payHold.mutate(hold.id)}>
            Pay {money(hold.amount_cents ?? 0)}
            <span className="sr-only"> and lift the hold</span>
          </Button>
        )}
      </div>
      {hold.payable && isOwn && waiting && (
        <div className="mt-2 flex flex-wrap items-center gap-3 bg-shade px-3 py-2 text-[13px]">
          <p className="flex-1">A payment was begun and has not been answered.</p>
          <Button disabled={ask.isPending} onClick={() => ask.mutate(waiting)}>
            Ask what became of it
          </Button>
        </div>
      )}
      {problem && (
        <div className="mt-2">
          <ProblemNotice problem={problem} />
        </div>
      )}
    </li>
  );
}
