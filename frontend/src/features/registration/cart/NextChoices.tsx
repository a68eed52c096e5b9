import { X } from "lucide-react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { useSectionLink } from "../../catalogue/section/useSectionLink";
import { SMALL_BUTTON } from "./ChangeGroup";

type Change = Schemas["CartChangeResponse"];
type Props = { change: Change; onNext: (alternatives: string[][]) => void };

/** Sections to try in turn where the one wished for cannot be had when the cart is put through. */
export function ChosenAlternatives({ change, onNext }: Props) {
  const link = useSectionLink();
  const { alternatives, original, outcome } = change;
  if (alternatives.length === 0) return null;
  const chosen = alternatives.map(({ numbers }) => numbers);
  return (
    <ol
      className="mt-1 border-l border-hair pl-2.5 text-small"
      aria-label={`Choices for ${original.name} ${original.number}`}
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
  );
}
