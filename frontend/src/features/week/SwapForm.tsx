import { type FormEvent, useId, useState } from "react";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";
import type { Section } from "./layout";

type Props = { section: Section; onSwap: (number: string) => void };

/** Name the section that is wanted; the one held is kept until the swap goes through. */
export function SwapForm({ section, onSwap }: Props) {
  const id = useId();
  const [number, setNumber] = useState("");
  const digits = number.replace(/\D/g, "");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (digits.length === 5) onSwap(digits);
  };
  return (
    <form
      className="order-last col-span-full flex flex-wrap items-end gap-3 bg-shade px-3 py-2.5 text-[13px]"
      onSubmit={submit}
    >
      <div className="w-56">
        <Field id={id} label="Section wanted, by number">
          <input
            id={id}
            className={`${INPUT} number`}
            inputMode="numeric"
            autoComplete="off"
            maxLength={12}
            // biome-ignore lint/a11y/noAutofocus: the form was opened by a press just now
            autoFocus
            value={number}
            onChange={(event) => setNumber(event.target.value)}
          />
        </Field>
      </div>
      <Button type="submit" disabled={digits.length !== 5}>
        Put the swap into the cart
      </Button>
      <p className="basis-full text-soft">
        You keep {section.name} <span className="number">{section.number}</span> until the swap has
        gone through. If it cannot, nothing changes.
      </p>
    </form>
  );
}
