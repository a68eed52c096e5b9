import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { ProblemNotice } from "../../../ui/Notice";
import { ReasonForm } from "../../../ui/ReasonForm";
import { Ticks } from "../../../ui/Ticks";
import { dayAndTime, listed } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { useStudentChanges } from "./useStudentChanges";

type Props = { student: Schemas["OfficeStudent"]; term: string; session: SignedIn };
type Stop = Schemas["HoldWanted"]["stops"][number];

const STOPS: [Stop, string][] = [
  ["add", "adds"],
  ["swap", "swaps"],
  ["wait", "waiting"],
  ["drop", "drops"],
];

/** Holds, with what each stops. */
export function StudentHolds({ student, term, session }: Props) {
  const { place, lift } = useStudentChanges(term, student.id);
  const [lifts, setLifts] = useState(0);
  const [places, setPlaces] = useState(false);
  const problem = place.error ?? lift.error;
  return (
    <section aria-labelledby="holds" className="min-w-0">
      <h2 id="holds" className="text-[20px]">
        Holds
      </h2>
      {problem && <ProblemNotice problem={problem} />}
      <ul className="mt-2 border-t border-ink">
        {student.holds.map((hold) => (
          <li key={hold.id} className="border-b border-hair py-2">
            <div className="flex items-start gap-3">
              <div className={`min-w-0 flex-1 ${hold.lifted_at ? "text-soft" : ""}`}>
                <p className={hold.lifted_at ? "" : "font-semibold"}>{hold.reason}</p>
                <p className="text-[13px] text-soft">
                  {hold.office}; stops {listed(hold.stops)}; since{" "}
                  {dayAndTime(new Date(hold.placed_at), session.zone)}
                  {hold.lifted_at &&
                    `; lifted ${dayAndTime(new Date(hold.lifted_at), session.zone)}: ${hold.lifted_why}`}
                </p>
              </div>
              {!hold.lifted_at && lifts !== hold.id && (
                <Button onClick={() => setLifts(hold.id)}>Lift</Button>
              )}
            </div>
            {lifts === hold.id && !hold.lifted_at && (
              <ReasonForm
                label="Why it is lifted"
                button="Lift the hold"
                isPending={lift.isPending}
                onReason={(why) =>
                  lift.mutate({ hold_id: hold.id, why }, { onSuccess: () => setLifts(0) })
                }
                onCancel={() => setLifts(0)}
              />
            )}
          </li>
        ))}
      </ul>
      {student.holds.length === 0 && <p className="py-2 text-soft">None.</p>}
      {places ? (
        <PlaceHold
          isPending={place.isPending}
          onPlace={(body) => place.mutate(body, { onSuccess: () => setPlaces(false) })}
          onCancel={() => setPlaces(false)}
        />
      ) : (
        <Button className="mt-3" onClick={() => setPlaces(true)}>
          Place a hold
        </Button>
      )}
    </section>
  );
}

type PlaceProps = {
  isPending: boolean;
  onPlace: (body: Schemas["HoldWanted"]) => void;
  onCancel: () => void;
};

function PlaceHold({ isPending, onPlace, onCancel }: PlaceProps) {
  const id = useId();
  const [reason, setReason] = useState("");
  const [contact, setContact] = useState("");
  const [stops, setStops] = useState<Stop[]>(["add", "swap", "wait"]);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onPlace({ reason: reason.trim(), contact: contact.trim(), stops });
  };
  return (
    <form className="mt-3 space-y-3 bg-shade p-3.5" onSubmit={submit}>
      <Field id={`${id}-reason`} label="Reason, as the student will read it">
        <input
          id={`${id}-reason`}
          className={INPUT}
          required
          minLength={5}
          maxLength={300}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
      </Field>
      <Field id={`${id}-contact`} label="Where it is settled">
        <input
          id={`${id}-contact`}
          className={INPUT}
          required
          minLength={3}
          maxLength={120}
          placeholder="The registrar’s desk, mornings"
          value={contact}
          onChange={(event) => setContact(event.target.value)}
        />
      </Field>
      <fieldset>
        <legend className="mb-1 text-[13px]">It stops</legend>
        <Ticks among={STOPS} chosen={stops} onChange={setStops} />
      </fieldset>
      <div className="flex gap-2">
        <Button type="submit" disabled={isPending || stops.length === 0}>
          Place the hold
        </Button>
        <Button look="quiet" onClick={onCancel}>
          Not now
        </Button>
      </div>
    </form>
  );
}
