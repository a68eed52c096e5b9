import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical, X } from "lucide-react";
import type { KeyboardEvent, ReactNode } from "react";
import type { Schemas } from "../../../api/client";

type Change = Schemas["CartChangeResponse"];
type Props = {
  group: Change[];
  movable: boolean;
  onMove: (by: -1 | 1) => void;
  onRemove: (ids: number[]) => void;
  children: (change: Change, handle: ReactNode) => ReactNode;
};

export const SMALL_BUTTON =
  "grid size-[26px] shrink-0 place-items-center rounded-sm text-soft hover:bg-shade hover:text-ink";

/** A change, or several that stand or fall together: shown, moved and taken out as one. */
export function ChangeGroup({ group, movable, onMove, onRemove, children }: Props) {
  const [first] = group;
  const sortable = useSortable({ id: first?.id ?? 0, disabled: !movable });
  const names = group.map(({ outcome }) => `${outcome.name} ${outcome.number}`).join(", ");
  const onKeyDown = (event: KeyboardEvent) => {
    if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
    event.preventDefault();
    onMove(event.key === "ArrowUp" ? -1 : 1);
  };
  const handle = movable && (
    <button
      type="button"
      ref={sortable.setActivatorNodeRef}
      {...sortable.attributes}
      {...sortable.listeners}
      className={`cursor-grab touch-none ${SMALL_BUTTON}`}
      aria-label={`Move ${names}; Alt and arrow keys move it too`}
    >
      <GripVertical size={15} aria-hidden />
    </button>
  );
  const style = {
    transform: CSS.Translate.toString(sortable.transform),
    transition: sortable.transition,
  };
  const look = `relative bg-surface ${sortable.isDragging ? "z-10 shadow-md" : ""}`;
  if (group.length === 1) {
    return (
      <li ref={sortable.setNodeRef} style={style} className={look} onKeyDown={onKeyDown}>
        {first && children(first, handle)}
      </li>
    );
  }
  return (
    <li
      ref={sortable.setNodeRef}
      style={style}
      className={`${look} border-b border-ink`}
      data-testid="group"
      onKeyDown={onKeyDown}
    >
      <div className="flex items-center gap-1 border-b border-hair bg-shade py-1 pr-3 pl-[18px] text-small">
        <span className="flex-1">{first?.together}</span>
        {handle}
        <button
          type="button"
          className={SMALL_BUTTON}
          aria-label={`Take all of these out of the cart: ${names}`}
          onClick={() => onRemove(group.map(({ id }) => id))}
        >
          <X size={15} aria-hidden />
        </button>
      </div>
      <ol className="pl-2">
        {group.map((change) => (
          <li key={change.id}>{children(change, null)}</li>
        ))}
      </ol>
    </li>
  );
}
