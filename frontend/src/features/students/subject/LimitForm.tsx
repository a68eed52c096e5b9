import { type FormEvent, useId, useState } from "react";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";

type Props = { own: number | null; isPending: boolean; onSet: (credits: number | null) => void };

/** Another credit limit for one student: an overload, or less. */
export function LimitForm({ own, isPending, onSet }: Props) {
  const id = useId();
  const [text, setText] = useState(own === null ? "" : String(own));
  return (
    <form
      className="col-span-full flex flex-wrap items-end gap-3 bg-shade px-3 py-2.5"
      onSubmit={(event: FormEvent) => {
        event.preventDefault();
        onSet(Number(text));
      }}
    >
      <div className="w-44">
        <Field id={id} label="Credits this student may take">
          <input
            id={id}
            className={INPUT}
            type="number"
            step={0.5}
            required
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </Field>
      </div>
      <Button type="submit" disabled={!text || isPending}>
        Allow
      </Button>
      {own !== null && (
        <Button look="quiet" disabled={isPending} onClick={() => onSet(null)}>
          Back to the limit of the standing
        </Button>
      )}
    </form>
  );
}
