import { type FormEvent, type ReactNode, useId, useState } from "react";
import { Button } from "./Button";
import { Field, INPUT } from "./Field";

type Props = {
  label: string;
  button: string;
  isPending: boolean;
  /** Whether what else there is to say has been said. */
  isReady?: boolean;
  onReason: (reason: string) => void;
  onCancel: () => void;
  /** What else is to be said; where there is nothing, the reason is typed at once. */
  children?: ReactNode;
};

/** So short a reason tells nobody anything. */
const LEAST = 3;

/** Something that is done for a reason, which is kept. */
export function ReasonForm(props: Props) {
  const { label, button, isPending, isReady = true, children } = props;
  const id = useId();
  const [reason, setReason] = useState("");
  const said = reason.trim();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    props.onReason(said);
  };
  return (
    <form className="mt-3 space-y-3 bg-shade p-3.5" onSubmit={submit}>
      {children}
      <div className="flex flex-wrap items-end gap-x-2 gap-y-3">
        <div className="min-w-64 flex-1">
          <Field id={id} label={label}>
            <input
              id={id}
              className={INPUT}
              required
              minLength={LEAST}
              maxLength={300}
              // biome-ignore lint/a11y/noAutofocus: the form was opened by a press just now
              autoFocus={!children}
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          </Field>
        </div>
        <Button type="submit" disabled={isPending || !isReady || said.length < LEAST}>
          {button}
        </Button>
        <Button look="quiet" onClick={props.onCancel}>
          Not now
        </Button>
      </div>
    </form>
  );
}
