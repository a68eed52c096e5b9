import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { cartQuery } from "../../api/queries";
import { useAnnounce } from "../../ui/announce";
import { Button } from "../../ui/Button";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Page";
import { counted, dayAndTime } from "../../ui/text";
import type { SignedIn } from "../session/useSignedIn";
import { ChangeList } from "./ChangeList";
import { Foot } from "./Foot";
import { NumberEntry } from "./NumberEntry";
import { OutcomeList } from "./OutcomeList";
import { useCartChanges } from "./useCart";
import { useSending } from "./useSending";
import { commonStops } from "./verdict";

/** The cart: reference numbers, the changes with their verdicts, and putting them through. */
export function Cart({ session, term }: { session: SignedIn; term: string }) {
  const cart = useQuery(cartQuery(term));
  const { add, remove, order, mode } = useCartChanges(term);
  const sending = useSending(term, session.person.username);
  const changes = cart.data?.changes ?? [];
  const trouble = remove.error ?? order.error ?? mode.error;

  const send = () => {
    const passing = changes.filter((change) => change.outcome.result === "accepted");
    // With "all" the whole cart goes, else only what would go through: the rest waits here.
    const sent = cart.data?.mode === "all" ? changes : passing;
    sending.start({
      mode: cart.data?.mode ?? "each",
      changes: sent.map(({ outcome }) => ({ kind: outcome.kind, number: outcome.number })),
    });
  };

  return (
    <div className="flex h-full min-h-0 flex-col">
      <div className="border-b border-hair px-[18px] pt-3.5 pb-2.5">
        <div className="flex items-baseline justify-between gap-3">
          <h2 className="text-[20px]">Cart</h2>
          <span className="text-[13px] text-soft">nothing here is registered yet</span>
        </div>
        <NumberEntry add={add} disabled={session.expired} />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto">
        {sending.data && (
          <Done receipt={sending.data} session={session} term={term} onClose={sending.reset} />
        )}
        {sending.isPending && sending.troubled && (
          <Notice tone="heed">
            There was no answer. The same sending is tried again; nothing is put through twice.
          </Notice>
        )}
        {sending.isError && (
          <div className="space-y-2 p-3">
            <ProblemNotice problem={sending.error} />
            {sending.isLeft() && <Button onClick={sending.repeat}>Send the same again</Button>}
          </div>
        )}
        {trouble && <ProblemNotice problem={trouble} />}
        <CommonStops changes={changes} />
        {cart.isPending && (
          <div className="px-[18px]">
            <Reading what="your cart" />
          </div>
        )}
        {cart.isError && !cart.data && <ProblemNotice problem={cart.error} />}
        {cart.data && changes.length === 0 && !sending.data && <Empty />}
        <ChangeList
          changes={changes}
          onOrder={order.mutate}
          onRemove={remove.mutate}
          onAct={({ kind, number }) => add.mutate({ kind, text: number })}
        />
      </div>
      {cart.data && changes.length > 0 && (
        <Foot cart={cart.data} isSending={sending.isPending} onMode={mode.mutate} onSend={send} />
      )}
    </div>
  );
}

function Empty() {
  return (
    <p className="px-[18px] py-5 text-soft">
      Type or paste the reference numbers of sections above. You see at once what each would do;
      nothing happens until you put it through.
    </p>
  );
}

/** What stops everything alike stands once at the top. */
function CommonStops({ changes }: { changes: Schemas["CartChangeView"][] }) {
  const stops = commonStops(changes.map((change) => change.outcome));
  if (stops.length === 0) return null;
  return (
    <section aria-label="What stands in the way" className="border-b border-ink bg-paper">
      <ul className="space-y-2 px-[18px] py-3 text-[13px] leading-snug">
        {stops.map((stop) => (
          <li key={stop.text}>
            <b
              className={`font-semibold ${stop.code === "window.early" ? "text-woad" : "text-madder"}`}
            >
              Not yet.
            </b>{" "}
            {stop.text}{" "}
            {stop.remedies.map((way) => (
              <span key={way.text} className="text-soft">
                {way.text}{" "}
              </span>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

type DoneProps = {
  receipt: Schemas["ReceiptView"];
  session: SignedIn;
  term: string;
  onClose: () => void;
};

/** The outcome of the last sending, change by change. */
function Done({ receipt, session, term, onClose }: DoneProps) {
  const announce = useAnnounce();
  const heading = useRef<HTMLHeadingElement>(null);
  const through = receipt.body.outcomes.filter((outcome) => outcome.result === "accepted").length;
  const refused = receipt.body.outcomes.length - through;
  const summary = `${counted(through, "change", "changes")} went through${refused ? `, ${refused} refused` : ""}.`;
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
          {dayAndTime(new Date(receipt.sent_at), session.zone)},{" "}
          <Link className="link" to={`/${term}/receipts/${receipt.id}`}>
            receipt {receipt.id}
          </Link>
          .{" "}
          <Button look="link" onClick={onClose}>
            Close
          </Button>
        </p>
      </div>
      <OutcomeList outcomes={receipt.body.outcomes} />
    </section>
  );
}
