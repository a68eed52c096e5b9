import type { CSSProperties } from "react";
import { HourGrid } from "../../../ui/hours/HourGrid";
import { type Tint, tintsOf } from "../../../ui/hours/tints";
import { addDays, clockTime, dayOfWeek, shortDay } from "../../../ui/text";
import { type Entry, hoursOf, type Placed, placeWeek, type WeekEntryState } from "./layout";

const LOOKS: Record<WeekEntryState, string> = {
  registered: "border-l-[3px] text-ink",
  dropped: "border-[1.5px] border-dashed border-soft bg-surface/85 text-soft",
  added: "border-[1.5px] border-dashed border-pine bg-surface/85 text-pine",
  swapped: "border-[1.5px] border-dashed border-pine bg-surface/85 text-pine",
  planned: "border-[1.5px] border-dashed border-woad bg-surface/85 text-woad",
  stopped: "border-[1.5px] border-dashed border-madder bg-surface/85 text-madder",
};

/** Said in words on each class, so that nothing hangs on colour or outline alone. */
const WORDS: Record<WeekEntryState, string> = {
  registered: "",
  dropped: "drop",
  added: "add",
  swapped: "swap to",
  planned: "in cart",
  stopped: "stopped",
};

type Props = {
  entries: Entry[];
  monday: string;
  breaks: Map<string, string>;
  className?: string;
};

/** The days of a week side by side, with their hours. */
export function WeekGrid({ entries, monday, breaks, className = "" }: Props) {
  const placed = placeWeek(entries, monday);
  const last = placed.some((p) => p.day === 6) ? 7 : placed.some((p) => p.day === 5) ? 6 : 5;
  const days = Array.from({ length: last }, (_, n) => addDays(monday, n)).map((day) => ({
    key: day,
    name: dayOfWeek(day),
    over: breaks.has(day) && (
      <li className="absolute inset-0 bg-shade/80 p-2 text-small text-soft">{breaks.get(day)}</li>
    ),
  }));
  const tints = tintsOf(entries.map((entry) => entry.section));
  return (
    <HourGrid
      label={`Week of ${shortDay(monday)}`}
      days={days}
      placed={placed}
      hours={hoursOf(entries)}
      hour={42}
      gap={3}
      above={9}
      className={className}
    >
      {(item, style) => (
        <Class
          key={`${item.section.number}-${item.start}`}
          item={item}
          style={style}
          tint={tints.get(item.section.course.split(" ")[0] ?? "")}
        />
      )}
    </HourGrid>
  );
}

type ClassProps = { item: Placed; style: CSSProperties; tint: Tint | undefined };

function Class({ item, style, tint }: ClassProps) {
  const { section, state, start, end, room, lanes, clashes, tight } = item;
  const height = Number(style.height);
  const word = clashes
    ? lanes > 2
      ? "clash"
      : "clashes"
    : tight
      ? `${WORDS[state]}, tight`
      : WORDS[state];
  const tinted = state === "registered" && tint;
  return (
    <li
      className={`absolute overflow-hidden rounded-[2px] px-1.5 py-0.5 text-[12px] leading-[1.22] ${LOOKS[state]} ${clashes ? "hatched" : ""}`}
      style={tinted ? { ...style, backgroundColor: tint.fill, borderLeftColor: tint.edge } : style}
      title={`${section.name} ${section.number}, ${section.title}, ${clockTime(start)}–${clockTime(end)}${room ? `, ${room}` : ""}`}
      data-state={state}
    >
      <b className="font-semibold">{section.name}</b> {word && <span>{word}</span>}
      {height > 34 && lanes === 1 && <span className="block truncate">{room}</span>}
      <span className={height > 64 && lanes === 1 ? "block" : "sr-only"}>
        {clockTime(start)}–{clockTime(end)}
      </span>
    </li>
  );
}
