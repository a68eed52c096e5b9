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
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import type { Chosen } from "../changes/useCartChanges";
import { ChangeGroup } from "./ChangeGroup";
import { ChangeItem } from "./ChangeItem";

type Change = Schemas["CartChangeResponse"];
type Props = {
  changes: Change[];
  onOrder: (ids: number[]) => void;
  onRemove: (ids: number[]) => void;
  onAct: (change: Change, action: Schemas["ActionResponse"]) => void;
  onChoose: (change: Change, chosen: Chosen) => void;
  /** " at 09:00" before the window, else nothing. */
  when: string;
};

/** The changes in their order, which is their priority; what belongs together moves as one. */
export function ChangeList(props: Props) {
  const { changes, onOrder, onRemove, onAct, onChoose, when } = props;
  const announce = useAnnounce();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const groups = groupsOf(changes);
  const ids = groups.map(([first]) => first?.id ?? 0);
  const move = (from: number, to: number) => {
    const [first, ...others] = groups[from] ?? [];
    if (!first || to < 0 || to >= ids.length || from === to) return;
    onOrder(arrayMove(groups, from, to).flatMap((group) => group.map(({ id }) => id)));
    const what = others.length ? `${first.outcome.name} and what goes with it` : first.outcome.name;
    announce(`${what} is now number ${to + 1} of ${ids.length}.`);
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (over) move(ids.indexOf(Number(active.id)), ids.indexOf(Number(over.id)));
  };
  return (
    <>
      <h2 className="sr-only">Changes</h2>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <ol aria-label="Changes, the most wanted first">
            {groups.map((group, index) => (
              <ChangeGroup
                key={group[0]?.id}
                group={group}
                movable={groups.length > 1}
                onMove={(by) => move(index, index + by)}
                onRemove={onRemove}
              >
                {(change, handle) => (
                  <ChangeItem
                    key={change.id}
                    change={change}
                    handle={handle}
                    onRemove={() => onRemove([change.id])}
                    onAct={onAct}
                    onChoose={(chosen) => onChoose(change, chosen)}
                    when={when}
                  />
                )}
              </ChangeGroup>
            ))}
          </ol>
        </SortableContext>
      </DndContext>
    </>
  );
}

function groupsOf(changes: Change[]): Change[][] {
  const groups = new Map<number, Change[]>();
  for (const change of changes)
    groups.set(change.group, [...(groups.get(change.group) ?? []), change]);
  return [...groups.values()];
}
