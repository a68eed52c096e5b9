import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { countdown, money } from "../../../ui/text";
import { useNow } from "../../../ui/useNow";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePaying } from "../payment/usePaying";
import { InstallmentOffer } from "./InstallmentOffer";
import { SumField } from "./SumField";
import { longMoment, openCents, seats, typedCents } from "./words";

type Account = Schemas["AccountResponse"];
type Props = { account: Account; session: SignedIn };

/** What is due next and what hangs on it, and every way to pay it. */
export function DueNow({ account, session }: Props) {
  const { paySum } = usePaying();
  const pay = (cents: number) => paySum.mutate({ cents, paid: account.paid_cents });
  const [more, setMore] = useState<"sum" | "parts" | null>(null);
  const open = openCents(account);
  const due = account.next?.open_cents ?? 0;
  const sum = due || open;
  const plan = account.plans[0];
  const toggle = (which: "sum" | "parts") => setMore(more === which ? null : which);
  return (
    <section aria-label="Due next" className="border-b border-hair py-3.5">
      <div className="grid grid-cols-[auto_1fr_auto] items-center gap-x-[22px] gap-y-2 max-md:grid-cols-1">
        <p
          className="font-serif text-[30px] leading-none font-medium tabular-nums"
          data-testid="due"
        >
          {money(sum)}
        </p>
        <div>
          <Said account={account} session={session} />
          {open > 0 && (
            <p className="mt-1 text-[13px] text-soft">
              {due > 0 && due < open && (
                <>
                  Or{" "}
                  <Button look="link" disabled={paySum.isPending} onClick={() => pay(open)}>
                    all of it, {money(open)}
                  </Button>
                  ,{" "}
                </>
              )}
              <Button look="link" aria-expanded={more === "sum"} onClick={() => toggle("sum")}>
                {due > 0 && due < open ? "another sum" : "Another sum"}
              </Button>
              {plan && (
                <>
                  , or{" "}
                  <Button
                    look="link"
                    aria-expanded={more === "parts"}
                    onClick={() => toggle("parts")}
                  >
                    in {plan.name}
                  </Button>
                </>
              )}
              .
            </p>
          )}
        </div>
        {sum > 0 && (
          <Button
            look="main"
            className="px-[18px] text-[14px]"
            disabled={paySum.isPending}
            onClick={() => pay(sum)}
          >
            {paySum.isPending ? "To the payment page…" : `Pay ${money(sum)}`}
          </Button>
        )}
      </div>
      {paySum.error && (
        <div className="mt-2">
          <ProblemNotice problem={paySum.error} />
        </div>
      )}
      {more === "sum" && <OtherSum isPending={paySum.isPending} onPay={pay} />}
      {more === "parts" && plan && (
        <InstallmentOffer plan={plan} zone={session.zone} onJoined={() => setMore(null)} />
      )}
    </section>
  );
}

/** The sentence beside the sum. */
function Said({ account, session }: Props) {
  const now = useNow(session.ahead).getTime();
  const { next, balance_cents: balance } = account;
  if (balance < 0 && account.asking_back?.until)
    return (
      <p>
        <b className="font-semibold">{money(-balance)}</b> is on your account, for what you ask
        back.
      </p>
    );
  if (balance < 0)
    return (
      <p>
        You have paid <b className="font-semibold">{money(-balance)}</b> too much. The cashier gives
        it back.
      </p>
    );
  if (!next) {
    const isCovered = balance > 0 && openCents(account) === 0;
    return (
      <p>
        {account.charged_cents === 0
          ? "Nothing is charged: you are registered for nothing in this term."
          : isCovered
            ? "Nothing is due: what is promised covers the rest."
            : balance === 0
              ? "Nothing is due: everything is paid."
              : "is open. No date has been set for it."}
      </p>
    );
  }
  const isSafe =
    account.sections > 0 && !account.dues.some((due) => due.loses_seats && due.open_cents);
  const safe = isSafe
    ? `Your ${seats(account.sections)} ${account.sections === 1 ? "is" : "are"} safe. `
    : "";
  const left = Date.parse(next.at) - now;
  const when = <b className="font-semibold text-ochre">{longMoment(next.at, session.zone)}</b>;
  // The first part of installments is due on joining; its seats are lost on the coming date only.
  if (left <= 0 && next.loses_seats && account.keeps_from_cents !== null)
    return (
      <p>
        is due <b className="font-semibold text-ochre">now</b>.{" "}
        {account.spared
          ? "The cashier has noted that you keep your seats."
          : `Your ${seats(account.sections)} ${account.sections === 1 ? "hangs" : "hang"} on it.`}
      </p>
    );
  if (left <= 0)
    return (
      <p>
        was due by {when}.{" "}
        {next.loses_seats
          ? "What is not paid for by then is given to those who wait; pay now."
          : "Until it is paid a hold stops you from adding, swapping and waiting."}
      </p>
    );
  return (
    <p>
      due by {when}, in {countdown(left)}.{" "}
      {next.loses_seats && account.spared
        ? "The cashier has noted that you keep your seats."
        : next.loses_seats
          ? `Until then your ${seats(account.sections)} ${account.sections === 1 ? "is" : "are"} yours; after it ${account.sections === 1 ? "it is" : "they are"} given to those who wait.`
          : `${safe}After it a hold stops you from adding, swapping and waiting.`}
    </p>
  );
}

function OtherSum({ isPending, onPay }: { isPending: boolean; onPay: (cents: number) => void }) {
  const id = useId();
  const [text, setText] = useState("");
  const cents = typedCents(text);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (cents) onPay(cents);
  };
  return (
    <form className="mt-3 flex flex-wrap items-end gap-3 bg-shade p-3" onSubmit={submit}>
      <SumField
        id={id}
        label="Sum to pay"
        value={text}
        isFirst
        describedBy={`${id}-how`}
        onChange={setText}
      />
      <Button type="submit" disabled={!cents || isPending}>
        {cents ? `Pay ${money(cents)}` : "Pay"}
      </Button>
      <p id={`${id}-how`} className="basis-full text-[13px] text-soft">
        {text && cents === null
          ? "Write it like 250 or 250.00."
          : "You pay it on the payment service's own page."}
      </p>
    </form>
  );
}
