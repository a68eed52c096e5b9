import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical, X } from "lucide-react";
import type { KeyboardEvent } from "react";
import type { Schemas } from "../../api/client";
import { credits } from "../../ui/text";
import { Findings } from "./Findings";
import { ownFindings, type Tone, VERBS, verdictOf } from "./verdict";

type Props = {
  change: Schemas["CartChangeView"];
  movable: boolean;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
  onAct: (action: Schemas["ActionView"]) => void;
  isInCart: (number: string) => boolean;
};

export const EDGES: Record<Tone, string> = {
  pine: "border-l-pine",
  ochre: "border-l-ochre",
  madder: "border-l-madder",
  woad: "border-l-woad",
};
export const WORDS: Record<Tone, string> = {
  pine: "text-pine",
  ochre: "text-ochre",
  madder: "text-madder",
  woad: "text-woad",
};

export function ChangeItem({ change, movable, onMove, onRemove, onAct, isInCart }: Props) {
  const { outcome } = change;
  const sortable = useSortable({ id: change.id, disabled: !movable });
  const { word, tone } = verdictOf(outcome, false);
  const what = `${outcome.name} ${outcome.number}`;
  const onKeyDown = (event: KeyboardEvent) => {
    if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
    event.preventDefault();
    onMove(event.key === "ArrowUp" ? -1 : 1);
  };
  const facts = [
    change.times,
    outcome.credits ? credits(outcome.credits) : "",
    change.seats,
  ].filter(Boolean);
  return (
    <li
      ref={sortable.setNodeRef}
      style={{
        transform: CSS.Translate.toString(sortable.transform),
        transition: sortable.transition,
      }}
      className={`group relative border-b border-l-4 border-hair bg-surface py-2.5 pr-3 pl-3.5 ${EDGES[tone]} ${sortable.isDragging ? "z-10 shadow-md" : ""}`}
      data-testid={`change-${outcome.number}`}
      onKeyDown={onKeyDown}
    >
      <div className="flex items-start gap-1">
        <h3 className="flex-1 font-sans text-[14px] font-semibold">
          {VERBS[outcome.kind]} {outcome.name} <span className="number">{outcome.number}</span>
        </h3>
        {movable && (
          <button
            type="button"
            ref={sortable.setActivatorNodeRef}
            {...sortable.attributes}
            {...sortable.listeners}
            className="cursor-grab touch-none rounded-sm p-1 text-soft hover:bg-shade hover:text-ink"
            aria-label={`Move ${what}; Alt and arrow keys move it too`}
          >
            <GripVertical size={15} aria-hidden />
          </button>
        )}
        <button
          type="button"
          className="rounded-sm p-1 text-soft hover:bg-shade hover:text-ink"
          aria-label={`Take ${what} out of the cart`}
          onClick={onRemove}
        >
          <X size={15} aria-hidden />
        </button>
      </div>
      <p className="pr-2 text-small text-soft">
        {outcome.title}
        {facts.map((fact) => (
          <span key={fact}>
            {" "}
            · <span className="whitespace-nowrap">{fact}</span>
          </span>
        ))}
      </p>
      <div className="mt-1 pr-2 text-[13px] leading-snug">
        <b className={`font-semibold ${WORDS[tone]}`}>{word}</b>{" "}
        <Findings findings={ownFindings(outcome)} onAct={onAct} isInCart={isInCart} />
      </div>
    </li>
  );
}
