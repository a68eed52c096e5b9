import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import type { Schemas } from "../../api/client";
import { useAnnounce } from "../../ui/announce";
import { ChangeItem } from "./ChangeItem";

type Props = {
  changes: Schemas["CartChangeView"][];
  onOrder: (ids: number[]) => void;
  onRemove: (id: number) => void;
  onAct: (change: Schemas["CartChangeView"], action: Schemas["ActionView"]) => void;
  onChoose: (id: number, options: Schemas["Options"]) => void;
  /** " at 09:00" before the window, else nothing. */
  when: string;
  mode: Schemas["CartView"]["mode"];
};

/** The changes in their order, which is their priority. */
export function ChangeList({ changes, onOrder, onRemove, onAct, onChoose, when, mode }: Props) {
  const announce = useAnnounce();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const ids = changes.map((change) => change.id);
  const move = (from: number, to: number) => {
    const change = changes[from];
    if (!change || to < 0 || to >= ids.length || from === to) return;
    onOrder(arrayMove(ids, from, to));
    announce(`${change.outcome.name} is now number ${to + 1} of ${ids.length}.`);
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (over) move(ids.indexOf(Number(active.id)), ids.indexOf(Number(over.id)));
  };
  const numbers = new Set(changes.map((change) => change.outcome.number));
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <ol aria-label="Changes, the most wanted first">
          {changes.map((change, index) => (
            <ChangeItem
              key={change.id}
              change={change}
              movable={changes.length > 1}
              onMove={(by) => move(index, index + by)}
              onRemove={() => onRemove(change.id)}
              onAct={onAct}
              onChoose={(options) => onChoose(change.id, options)}
              when={when}
              mode={mode}
              isInCart={(number) => numbers.has(number)}
            />
          ))}
        </ol>
      </SortableContext>
    </DndContext>
  );
}
