import { useState } from "react";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Ticks";
import { singleKeys } from "./singleKeys";

const KEYS = [
  ["Ctrl + k", "to anything: screens, sections, actions"],
  ["n", "to the field for reference numbers"],
  ["/", "to Find, into the field for words"],
  ["f", "to Timetables"],
  ["← → ↑ ↓", "in Timetables, walk through the timetables"],
  ["c", "to clearance"],
  ["w", "to the week"],
  ["a", "to the waitlists"],
  ["r", "to the confirmations"],
  ["Alt + ↑ or ↓", "move a change in the cart up or down"],
  ["?", "this sheet"],
] as const;

export function KeysSheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [isOn, setIsOn] = useState(singleKeys.isOn);
  return (
    <Sheet open={open} onClose={onClose} title="Keys">
      <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-2">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="number rounded-sm border border-hair px-1.5 py-0.5">{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
      <Tick
        className="mt-5 border-t border-hair pt-4"
        checked={isOn}
        onChange={(checked) => {
          singleKeys.set(checked);
          setIsOn(checked);
        }}
      >
        Keys of a single letter, such as n and /
      </Tick>
    </Sheet>
  );
}
