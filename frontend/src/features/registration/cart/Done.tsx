import { lazy, Suspense, useEffect, useRef } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { counted, dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OutcomeList } from "../changes/OutcomeList";

const PlansTold = lazy(async () => ({
  default: (await import("../changes/PlansTold")).PlansTold,
}));

type Props = {
  confirmation: Schemas["ConfirmationResponse"];
  session: SignedIn;
  base: string;
  onClose: () => void;
};

/** The outcome of the last sending, change by change. */
export function Done({ confirmation, session, base, onClose }: Props) {
  const announce = useAnnounce();
  const heading = useRef<HTMLHeadingElement>(null);
  const many = (result: string) =>
    confirmation.body.outcomes.filter((outcome) => outcome.result === result).length;
  const through = many("accepted");
  const waiting = many("waiting");
  const refused = many("refused");
  const summary = `${[
    `${counted(through, "change", "changes")} went through`,
    waiting ? `${counted(waiting, "place", "places")} taken on waitlists` : "",
    refused ? `${refused} refused` : "",
  ]
    .filter(Boolean)
    .join(", ")}.`;
  useEffect(() => {
    heading.current?.focus();
    announce(summary);
  }, [announce, summary]);
  return (
    <section aria-label="Outcome" className="border-b border-ink" data-testid="outcome">
      <div className="px-[18px] py-3">
        <h3 ref={heading} tabIndex={-1} className="text-[17px] outline-none">
          {summary}
        </h3>
        <p className="text-[13px] text-soft">
          {dayAndTime(new Date(confirmation.sent_at), session.zone)},{" "}
          <Link className="link" to={`${base}/confirmations/${confirmation.id}`}>
            confirmation {confirmation.id}
          </Link>
          .{" "}
          <Button look="link" onClick={onClose}>
            Close
          </Button>
        </p>
      </div>
      <Suspense>
        <PlansTold plans={confirmation.body.plans} />
      </Suspense>
      <OutcomeList outcomes={confirmation.body.outcomes} />
    </section>
  );
}
