import { type FormEvent, useId, useState } from "react";
import { Button } from "../../ui/Button";
import { NumberField, typedNumber } from "../section/NumberField";
import type { Section } from "./layout";

type Props = { section: Section; onSwap: (number: string) => void };

/** Name the section that is wanted; the one held is kept until the swap goes through. */
export function SwapForm({ section, onSwap }: Props) {
  const id = useId();
  const [typed, setTyped] = useState("");
  const number = typedNumber(typed);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (number) onSwap(number);
  };
  return (
    <form
      className="order-last col-span-full flex flex-wrap items-end gap-3 bg-shade px-3 py-2.5 text-[13px]"
      onSubmit={submit}
    >
      <div className="w-56">
        <NumberField id={id} label="Section wanted, by number" value={typed} onChange={setTyped} />
      </div>
      <Button type="submit" disabled={!number}>
        Put the swap into the cart
      </Button>
      <p className="basis-full text-soft">
        You keep {section.name} <span className="number">{section.number}</span> until the swap has
        gone through. If it cannot, nothing changes.
      </p>
    </form>
  );
}
