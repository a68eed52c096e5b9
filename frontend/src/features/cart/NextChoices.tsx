import { X } from "lucide-react";
import { type FormEvent, useId, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { NumberField, typedNumber } from "../section/NumberField";
import { useSectionLink } from "../section/useSectionLink";
import { SMALL_BUTTON } from "./ChangeGroup";

type Change = Schemas["CartChangeResponse"];
type Props = {
  change: Change;
  /** The form for one more is open. */
  open: boolean;
  onNext: (orElse: string[][]) => void;
  onClose: () => void;
};

/** Sections to try in turn where the one wished for cannot be had when the cart is put through. */
export function NextChoices({ change, open, onNext, onClose }: Props) {
  const id = useId();
  const link = useSectionLink();
  const [typed, setTyped] = useState("");
  const { alternatives, original, outcome } = change;
  const chosen = alternatives.map(({ numbers }) => numbers);
  const number = typedNumber(typed);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!number) return;
    onNext([...chosen, [number]]);
    setTyped("");
    onClose();
  };
  const what = `${original.name} ${original.number}`;
  return (
    <>
      {alternatives.length > 0 && (
        <ol
          className="mt-1 border-l border-hair pl-2.5 text-small"
          aria-label={`Choices for ${what}`}
        >
          <li className={outcome.original ? "text-soft line-through" : ""}>
            First <span className="number">{original.number}</span>
          </li>
          {alternatives.map(({ numbers, name, times, taken }, index) => (
            <li key={numbers.join()} className="flex items-center gap-1">
              <span className={taken ? "font-semibold" : ""}>
                else{" "}
                <Link className="link number" to={link(numbers[0] ?? "")}>
                  {numbers[0]}
                </Link>
                {name !== original.name && ` ${name}`}, {times}
                {taken && ": this one"}
              </span>
              <button
                type="button"
                className={SMALL_BUTTON}
                aria-label={`Not ${numbers[0]}`}
                onClick={() => onNext(chosen.filter((_, other) => other !== index))}
              >
                <X size={13} aria-hidden />
              </button>
            </li>
          ))}
        </ol>
      )}
      {open && (
        <form className="mt-1 flex items-end gap-2" onSubmit={submit}>
          <NumberField
            id={id}
            label="If that cannot be had, take section"
            value={typed}
            onChange={setTyped}
          />
          <Button type="submit" disabled={!number}>
            Note it
          </Button>
        </form>
      )}
    </>
  );
}
