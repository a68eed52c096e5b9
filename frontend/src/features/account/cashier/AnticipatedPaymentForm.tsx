import { type FormEvent, useId, useState } from "react";
import { api, type Schemas, take } from "../../../api/client";
import { useOnce } from "../../../api/once";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { ProblemNotice } from "../../../ui/Notice";
import { SumField } from "../statement/SumField";
import { typedCents } from "../statement/words";

type Kind = Schemas["AnticipatedPaymentWanted"]["kind"];
type Props = { student: number; term: string; onNoted: (desk: Schemas["DeskResponse"]) => void };

const KINDS: Kind[] = ["aid", "sponsor", "service benefits"];

/** Money that is expected for a student. */
export function AnticipatedPaymentForm({ student, term, onNoted }: Props) {
  const id = useId();
  const [kind, setKind] = useState<Kind>("aid");
  const [label, setLabel] = useState("");
  const [text, setText] = useState("");
  const cents = typedCents(text);
  const note = useOnce(
    (body: Schemas["AnticipatedPaymentWanted"], header) =>
      take(
        api.POST("/api/terms/{term}/accounts/{student}/anticipated-payments", {
          params: { path: { term, student }, header },
          body,
        }),
      ),
    { onSuccess: onNoted },
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (cents) note.mutate({ kind, label: label.trim(), amount_cents: cents });
  };
  return (
    <form className="mt-3 flex flex-wrap items-end gap-3 bg-shade p-3" onSubmit={submit}>
      <div className="w-44">
        <Field id={`${id}-kind`} label="Type">
          <select
            id={`${id}-kind`}
            className={INPUT}
            value={kind}
            onChange={(event) => setKind(event.target.value as Kind)}
          >
            {KINDS.map((one) => (
              <option key={one} value={one}>
                {one}
              </option>
            ))}
          </select>
        </Field>
      </div>
      <div className="min-w-52 flex-1">
        <Field id={`${id}-label`} label="Source">
          <input
            id={`${id}-label`}
            className={INPUT}
            required
            maxLength={120}
            value={label}
            onChange={(event) => setLabel(event.target.value)}
          />
        </Field>
      </div>
      <SumField id={`${id}-sum`} label="Sum" value={text} onChange={setText} />
      <Button type="submit" disabled={!cents || !label.trim() || note.isPending}>
        Add anticipated payment
      </Button>
      {note.error && (
        <div className="basis-full">
          <ProblemNotice problem={note.error} />
        </div>
      )}
    </form>
  );
}
