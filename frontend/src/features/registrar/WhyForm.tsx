import { type FormEvent, type ReactNode, useId, useState } from "react";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";

type Props = {
  label: string;
  button: string;
  isPending: boolean;
  /** Whether what else there is to say has been said. */
  isReady?: boolean;
  onWhy: (why: string) => void;
  onCancel: () => void;
  /** What else is to be said. */
  children?: ReactNode;
};

/** Something that is done for a reason, which is kept. */
export function WhyForm(props: Props) {
  const { label, button, isPending, isReady = true, onWhy, onCancel, children } = props;
  const id = useId();
  const [why, setWhy] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onWhy(why.trim());
  };
  return (
    <form className="mt-2 space-y-3 bg-shade p-3.5" onSubmit={submit}>
      {children}
      <Field id={id} label={label}>
        <input
          id={id}
          className={INPUT}
          required
          minLength={3}
          maxLength={300}
          value={why}
          onChange={(event) => setWhy(event.target.value)}
        />
      </Field>
      <div className="flex gap-2">
        <Button type="submit" disabled={isPending || !isReady || why.trim().length < 3}>
          {button}
        </Button>
        <Button look="quiet" onClick={onCancel}>
          Not now
        </Button>
      </div>
    </form>
  );
}
