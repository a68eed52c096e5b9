import { type FormEvent, useId, useState } from "react";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";

type Props = {
  label: string;
  button: string;
  isPending: boolean;
  onReason: (reason: string) => void;
  onCancel: () => void;
};

/** A reason, which the student and the auditors read. */
export function ReasonForm({ label, button, isPending, onReason, onCancel }: Props) {
  const id = useId();
  const [reason, setReason] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onReason(reason.trim());
  };
  return (
    <form className="mt-3 flex flex-wrap items-end gap-3 bg-shade p-3" onSubmit={submit}>
      <div className="min-w-64 flex-1">
        <Field id={id} label={label}>
          <input
            id={id}
            className={INPUT}
            required
            maxLength={400}
            // biome-ignore lint/a11y/noAutofocus: the form was opened by a press just now
            autoFocus
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        </Field>
      </div>
      <Button type="submit" disabled={isPending || !reason.trim()}>
        {button}
      </Button>
      <Button look="quiet" onClick={onCancel}>
        Not now
      </Button>
    </form>
  );
}
