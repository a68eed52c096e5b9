import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useEffect, useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { testCardsQuery } from "../../api/queries";
import { useAnnounce } from "../../ui/announce";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { money } from "../../ui/text";
import { useClearing } from "./useClearance";

type Props = { hold: Schemas["HoldResponse"]; onClose: () => void };

/** Paying a fee hold by card. What becomes of it is said in words, and it counts once. */
export function PaymentForm({ hold, onClose }: Props) {
  const id = useId();
  const announce = useAnnounce();
  const cards = useQuery(testCardsQuery);
  const { pay, ask } = useClearing();
  const [number, setNumber] = useState("");
  const answer = ask.data ?? pay.data;
  const waiting = hold.waiting_payment;
  useEffect(() => {
    if (answer) announce(answer.text);
  }, [answer, announce]);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    ask.reset();
    pay.mutate({ hold: hold.id, number });
  };
  return (
    <div className="mt-3 max-w-[560px] bg-shade p-3.5">
      {answer && (
        <div className="mb-3">
          <Notice tone={answer.state === "declined" ? "stop" : "warning"}>{answer.text}</Notice>
        </div>
      )}
      {(pay.error ?? ask.error) && (
        <div className="mb-3">
          <ProblemNotice problem={(pay.error ?? ask.error) as Error} />
        </div>
      )}
      {waiting ? (
        <div className="flex flex-wrap items-center gap-3 text-[13px]">
          <p className="flex-1">
            A payment is on its way and has not been answered. Ask before you pay again.
          </p>
          <Button disabled={ask.isPending} onClick={() => ask.mutate(waiting)}>
            Ask what became of it
          </Button>
        </div>
      ) : (
        <form className="flex flex-wrap items-end gap-3" onSubmit={submit}>
          <div className="min-w-48 flex-1">
            <Field id={id} label="Card number">
              <input
                id={id}
                className={`${INPUT} number`}
                inputMode="numeric"
                autoComplete="cc-number"
                required
                // biome-ignore lint/a11y/noAutofocus: the form was opened by a press just now
                autoFocus
                value={number}
                onChange={(event) => setNumber(event.target.value)}
              />
            </Field>
          </div>
          <Button look="main" type="submit" disabled={pay.isPending || !number.trim()}>
            {pay.isPending ? "Paying…" : `Pay ${money(hold.amount_cents ?? 0)}`}
          </Button>
          <Button look="quiet" onClick={onClose}>
            Not now
          </Button>
          {cards.data && (
            <details className="basis-full text-[13px]">
              <summary className="w-fit text-soft hover:text-ink">
                This payment service is a stand-in: its test cards
              </summary>
              <ul className="mt-1.5 space-y-1">
                {cards.data?.map((card) => (
                  <li key={card.number}>
                    <Button look="link" className="number" onClick={() => setNumber(card.number)}>
                      {card.number.replace(/(.{4})(?=.)/g, "$1 ")}
                    </Button>{" "}
                    {card.what}
                  </li>
                ))}
              </ul>
            </details>
          )}
        </form>
      )}
    </div>
  );
}
