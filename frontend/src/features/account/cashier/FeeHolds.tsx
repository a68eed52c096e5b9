import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";
import { api, type Schemas, take } from "../../../api/client";
import { useOnce } from "../../../api/once";
import { feeHoldsQuery } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { ProblemNotice } from "../../../ui/Notice";
import { Reading } from "../../../ui/Page";
import { ReasonForm } from "../../../ui/ReasonForm";
import { dayAndTime, money } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";

type Hold = Schemas["HoldResponse"];

/** The fee holds of one student. */
export function FeeHolds({ student, session }: { student: number; session: SignedIn }) {
  const client = useQueryClient();
  const found = useQuery(feeHoldsQuery(student));
  const keep = (holds: Schemas["FeeHolds"]) =>
    client.setQueryData(feeHoldsQuery(student).queryKey, holds);
  const place = useOnce(
    (body: Schemas["FeeWanted"], header) =>
      take(
        api.POST("/api/students/{student}/fee-holds", {
          params: { path: { student }, header },
          body,
        }),
      ),
    { onSuccess: keep },
  );
  const lift = useMutation({
    mutationFn: ({ hold_id, why }: { hold_id: number; why: string }) =>
      take(
        api.POST("/api/students/{student}/fee-holds/{hold_id}/lifting", {
          params: { path: { student, hold_id } },
          body: { why },
        }),
      ),
    onSuccess: keep,
  });
  if (!found.data)
    return found.isError ? <ProblemNotice problem={found.error} /> : <Reading what="the holds" />;
  const problem = place.error ?? lift.error;
  return (
    <>
      {problem && <ProblemNotice problem={problem} />}
      {found.data.holds.length === 0 && <p className="py-3 text-soft">No fee hold.</p>}
      <ul>
        {found.data.holds.map((hold) => (
          <HoldRow
            key={hold.id}
            hold={hold}
            session={session}
            isPending={lift.isPending}
            onLift={(why) => lift.mutate({ hold_id: hold.id, why })}
          />
        ))}
      </ul>
      <PlaceForm isPending={place.isPending} onPlace={place.mutateAsync} />
    </>
  );
}

type RowProps = {
  hold: Hold;
  session: SignedIn;
  isPending: boolean;
  onLift: (why: string) => void;
};

function HoldRow({ hold, session, isPending, onLift }: RowProps) {
  const [lifting, setLifting] = useState(false);
  return (
    <li className="border-b border-hair py-2.5 text-[13px]">
      <div className="flex flex-wrap items-start gap-4">
        <div className="min-w-0 flex-1">
          <p className="text-[14px] font-semibold">{hold.reason}</p>
          <p className="text-soft">
            {money(hold.amount_cents ?? 0)}, placed{" "}
            {dayAndTime(new Date(hold.placed_at), session.zone)}
            {hold.lifted_at &&
              `; lifted ${dayAndTime(new Date(hold.lifted_at), session.zone)}, ${hold.lifted_why}`}
          </p>
        </div>
        {!hold.lifted_at && !lifting && <Button onClick={() => setLifting(true)}>Lift</Button>}
      </div>
      {lifting && !hold.lifted_at && (
        <ReasonForm
          label="Why it is lifted"
          button="Lift the hold"
          isPending={isPending}
          onReason={onLift}
          onCancel={() => setLifting(false)}
        />
      )}
    </li>
  );
}

type PlaceProps = {
  isPending: boolean;
  onPlace: (body: Schemas["FeeWanted"]) => Promise<unknown>;
};

function PlaceForm({ isPending, onPlace }: PlaceProps) {
  const id = useId();
  const [reason, setReason] = useState("");
  const [amount, setAmount] = useState("");
  const cents = Math.round(Number(amount) * 100);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    try {
      await onPlace({ reason: reason.trim(), amount_cents: cents });
    } catch {
      // The problem is shown above; what was typed stays, to be sent again.
      return;
    }
    setReason("");
    setAmount("");
  };
  return (
    <form className="mt-5 flex flex-wrap items-end gap-3 bg-shade p-3.5" onSubmit={submit}>
      <div className="min-w-52 flex-1">
        <Field id={`${id}-reason`} label="Reason, as the student will read it">
          <input
            id={`${id}-reason`}
            className={INPUT}
            maxLength={300}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        </Field>
      </div>
      <div className="w-28">
        <Field id={`${id}-amount`} label="Amount">
          <input
            id={`${id}-amount`}
            className={INPUT}
            type="number"
            min={0.01}
            step={0.01}
            value={amount}
            onChange={(event) => setAmount(event.target.value)}
          />
        </Field>
      </div>
      <Button type="submit" disabled={isPending || reason.trim().length < 5 || !(cents > 0)}>
        Place a fee hold
      </Button>
    </form>
  );
}
