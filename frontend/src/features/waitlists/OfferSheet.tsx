import { useQuery } from "@tanstack/react-query";
import { useId, useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { type OfferChoice, offerQuery } from "../../api/queries";
import { useAnnounce } from "../../ui/announce";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";
import { ProblemNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Page";
import { Sheet } from "../../ui/Sheet";
import { countdown, dueName, money } from "../../ui/text";
import { useNow } from "../../ui/useNow";
import type { SignedIn } from "../access/session/useSignedIn";
import { Findings } from "../registration/changes/Findings";
import { usePageSubject } from "../students/subject/usePageSubject";
import { useAnswers } from "./useAnswers";

type Offer = Schemas["OfferResponse"];
type Props = { entry: Schemas["WaitlistEntryResponse"]; session: SignedIn; onClose: () => void };

/** An offer, looked at before it is answered: what it does to week, credits and fees. */
export function OfferSheet({ entry, session, onClose }: Props) {
  const { student } = usePageSubject();
  const id = useId();
  const announce = useAnnounce();
  const [choice, setChoice] = useState<OfferChoice>({
    in_exchange: entry.in_exchange?.number ?? "",
    chosen_linked_sections: [],
  });
  const offer = useQuery(offerQuery(entry.id, student, choice));
  const { accept } = useAnswers();
  // Sent again after a lost answer it is the same acceptance; another choice is another one.
  const key = useMemo(
    () => `${crypto.randomUUID()}-${choice.in_exchange}${choice.chosen_linked_sections.join()}`,
    [choice],
  );
  const now = useNow(session.ahead).getTime();
  const until = entry.offer_until ? Date.parse(entry.offer_until) : 0;
  const go = () =>
    accept.mutate(
      { id: entry.id, choice, key },
      {
        onSuccess: (answer) => {
          if (!answer.possible) return;
          announce(`You are registered for ${entry.section.name}.`);
          onClose();
        },
      },
    );
  const shown = offer.data;
  return (
    <Sheet open onClose={onClose} title={`A seat in ${entry.section.name}`}>
      <p className="text-soft">
        {entry.title}, <span className="number">{entry.section.number}</span>, {entry.times}. Held
        for you for <span className="number text-ink">{countdown(until - now)}</span>.
      </p>
      {offer.isPending && <Reading what="what it would mean" />}
      {offer.isError && <ProblemNotice problem={offer.error} />}
      {shown && (
        <>
          <div className="mt-4 space-y-3">
            <Field id={`${id}-swap`} label="Take it">
              <select
                id={`${id}-swap`}
                className={INPUT}
                value={choice.in_exchange}
                onChange={(event) => setChoice({ ...choice, in_exchange: event.target.value })}
              >
                <option value="">beside what I have</option>
                {shown.swaps.map(({ name, number }) => (
                  <option key={number} value={number}>
                    in the place of {name} {number}
                  </option>
                ))}
              </select>
            </Field>
            {shown.linked_sections.length > 0 && (
              <Field id={`${id}-with`} label="With">
                <select
                  id={`${id}-with`}
                  className={INPUT}
                  value={choice.chosen_linked_sections[0] ?? ""}
                  onChange={(event) =>
                    setChoice({
                      ...choice,
                      chosen_linked_sections: event.target.value ? [event.target.value] : [],
                    })
                  }
                >
                  <option value="">any that fits</option>
                  {shown.linked_sections.map(({ name, number }) => (
                    <option key={number} value={number}>
                      {name} {number}
                    </option>
                  ))}
                </select>
              </Field>
            )}
          </div>
          {shown.full.length > 0 && (
            <p className="mt-3 text-[13px] text-ochre">
              At the moment no {shown.full.join(" and no ")} that goes with it has a seat. The offer
              stands: look again before it lapses.
            </p>
          )}
          <Outlook offer={shown} zone={session.zone} />
          <div className="mt-4 flex items-center gap-3">
            <Button look="main" disabled={!shown.possible || accept.isPending} onClick={go}>
              {accept.isPending ? "Accepting…" : "Accept"}
            </Button>
            <Button look="quiet" onClick={onClose}>
              Not yet
            </Button>
          </div>
        </>
      )}
      {accept.isError && (
        <div className="mt-3">
          <ProblemNotice problem={accept.error} />
        </div>
      )}
    </Sheet>
  );
}

function Outlook({ offer, zone }: { offer: Offer; zone: string }) {
  const { before, after, due, outcomes, possible } = offer;
  const rows = [
    ["Credits", String(before.credits), String(after.credits)],
    ["Tuition and fees", money(before.charge_cents), money(after.charge_cents)],
    ...(due?.at
      ? ([[dueName(due, zone), money(due.before_cents), money(due.after_cents)]] as const)
      : []),
    ["Full time", before.full_time ? "yes" : "no", after.full_time ? "yes" : "no"],
  ] as const;
  return (
    <div
      className={`mt-4 border-l-4 bg-paper px-3 py-2.5 text-[13px] ${possible ? "border-l-pine" : "border-l-madder"}`}
    >
      <p>
        <b className={`font-semibold ${possible ? "text-pine" : "text-madder"}`}>
          {possible ? "It would go through." : "Stopped as it is."}
        </b>{" "}
        {outcomes.map((outcome) => (
          <Findings key={outcome.number} findings={outcome.findings} />
        ))}
      </p>
      {possible && (
        <table className="mt-2 w-full">
          <tbody>
            {rows.map(([name, now, then]) => (
              <tr key={name}>
                <th scope="row" className="text-left font-normal">
                  {name}
                </th>
                <td className="text-right">{now}</td>
                <td className="px-2 text-center text-soft">
                  <span aria-hidden>→</span>
                  <span className="sr-only">then</span>
                </td>
                <td className="text-right font-semibold">{then}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
