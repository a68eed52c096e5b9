import { type CSSProperties, type PointerEvent, useState } from "react";
import { HourGrid } from "../../ui/hours/HourGrid";
import type { Tint } from "../../ui/hours/tints";
import { clockTime } from "../../ui/text";
import { type Class, classesOf, daysFor, hoursFor, type Row } from "./hours";
import type { Drawn } from "./KeptFree";
import type { KeptFree } from "./question";

type Props = {
  label: string;
  rows: Row[];
  tints: Map<string, Tint>;
  kept: KeptFree[];
  /** Registered sections that stay as they are. */
  stays: string[];
  keeps: string[];
  differs: string[];
  full: Set<string>;
  isNarrow?: boolean;
  /** Keeps a section in place, or lets it go. */
  onKeep?: (number: string) => void;
  onDraw?: ((drawn: Drawn) => void) | undefined;
};

const NAMES = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const HOUR = 30;

/** A timetable as a week. A class pressed is kept in place; hours drawn into it are to be kept free. */
export function TimetableWeek({
  label,
  rows,
  tints,
  kept,
  isNarrow = false,
  onDraw,
  ...rest
}: Props) {
  const classes = classesOf(rows);
  const hours = hoursFor(classes);
  const days = NAMES.slice(0, daysFor(classes, kept)).map((name, day) => ({
    key: name,
    name,
    over: <Column key={name} day={day} kept={kept} hours={hours} onDraw={onDraw} />,
  }));
  return (
    <HourGrid label={label} days={days} placed={classes} hours={hours} hour={HOUR} gap={2}>
      {(item, style) => (
        <Block
          key={`${item.row.number} ${item.day} ${item.start}`}
          item={item}
          style={style}
          tint={tints.get(item.row.course.split(" ")[0] ?? "")}
          isNarrow={isNarrow}
          {...rest}
        />
      )}
    </HourGrid>
  );
}

type ColumnProps = {
  day: number;
  kept: KeptFree[];
  hours: [number, number];
  onDraw?: ((drawn: Drawn) => void) | undefined;
};

const STEP = 15;

/** What lies behind the classes of a day: the hours kept free, and the ground to draw them on. */
function Column({ day, kept, hours: [from, to], onDraw }: ColumnProps) {
  const [drawing, setDrawing] = useState<{ anchor: number; at: number } | null>(null);
  const minuteAt = (event: PointerEvent<HTMLLIElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const minute = from * 60 + ((event.clientY - box.top) / HOUR) * 60;
    return Math.min(to * 60, Math.max(from * 60, Math.round(minute / STEP) * STEP));
  };
  const placed = (start: number, end: number) => ({
    top: ((Math.max(start, from * 60) - from * 60) / 60) * HOUR,
    height: Math.max(0, (Math.min(end, to * 60) - Math.max(start, from * 60)) / 60) * HOUR,
  });
  const range = drawing && {
    start: Math.min(drawing.anchor, drawing.at),
    end: Math.max(drawing.anchor, drawing.at),
  };
  return (
    <li
      aria-hidden
      className={`absolute inset-0 ${onDraw ? "cursor-crosshair touch-pan-y" : ""}`}
      onPointerDown={(event) => {
        // A finger scrolls; with it hours are entered in the form.
        if (!onDraw || event.pointerType === "touch" || event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        const minute = minuteAt(event);
        setDrawing({ anchor: minute, at: minute });
      }}
      onPointerMove={(event) => drawing && setDrawing({ ...drawing, at: minuteAt(event) })}
      onPointerUp={() => {
        if (range && range.end - range.start >= 2 * STEP) onDraw?.({ day, ...range });
        setDrawing(null);
      }}
      onPointerCancel={() => setDrawing(null)}
    >
      {kept
        .filter(({ weekdays }) => weekdays.includes(day))
        .map((one) => (
          <span
            key={`${one.label}${one.start}`}
            className={`absolute inset-x-0 overflow-hidden pt-0.5 pl-1.5 text-[11.5px] text-soft ${one.is_must ? "kept-free" : "kept-free-rather"}`}
            style={placed(one.start, one.end)}
          >
            {one.label}
          </span>
        ))}
      {range && (
        <span
          className="absolute inset-x-0 border border-ink bg-shade/70 pl-1.5 text-[11.5px]"
          style={placed(range.start, range.end)}
        >
          {clockTime(range.start)}–{clockTime(range.end)}
        </span>
      )}
    </li>
  );
}

type BlockProps = Omit<Props, "label" | "rows" | "tints" | "kept" | "onDraw" | "isNarrow"> & {
  item: Class;
  style: CSSProperties;
  tint: Tint | undefined;
  isNarrow: boolean;
};

function Block({ item, style, tint, isNarrow, stays, keeps, differs, full, onKeep }: BlockProps) {
  const { row, start, end, room, campus, lanes } = item;
  const isHeld = stays.includes(row.number);
  const isKept = keeps.includes(row.number);
  const isNew = differs.includes(row.number);
  const isFull = full.has(row.number);
  const word = isHeld ? "registered" : isKept ? "stays" : isFull ? "full now" : "";
  const height = Number(style.height);
  const isWhole = row.session === "full term" || isNarrow;
  const said = `${row.name} ${row.number}, ${clockTime(start)}–${clockTime(end)}, ${room || campus || row.delivery}`;
  const look = `absolute flex items-start overflow-hidden rounded-[2px] border-l-[3px] px-1 py-0.5 text-left text-[12px] leading-[1.2] text-ink max-sm:text-[11px] max-sm:tracking-tight ${isNarrow ? "text-[11px] tracking-tight" : "sm:px-1.5"} ${isNew ? "outline outline-ink -outline-offset-1" : ""} ${isFull ? "hatched" : ""}`;
  const colours = { ...style, backgroundColor: tint?.fill, borderLeftColor: tint?.edge };
  const inside = (
    <span className="block min-w-0">
      <b
        className={`font-semibold ${isKept ? "underline" : ""} ${height > 34 ? "" : "whitespace-nowrap"}`}
      >
        {isNarrow ? row.course : row.name}
      </b>{" "}
      {word && <span className={height > 34 ? "" : "sr-only"}>{word}</span>}
      {height > 34 && lanes === 1 && !isNarrow && (
        <span className="block truncate">{room || campus}</span>
      )}
      {!isWhole && height > 50 && <span className="block truncate">{row.session}</span>}
    </span>
  );
  if (!onKeep || isHeld)
    return (
      <li className={look} style={colours} title={said}>
        {inside}
      </li>
    );
  return (
    <li>
      <button
        type="button"
        className={`${look} hover:shadow-[inset_0_0_0_1px_var(--color-ink)]`}
        style={colours}
        title={`${said}: ${isKept ? "let it move" : "keep it in place"}`}
        aria-pressed={isKept}
        onClick={() => onKeep(row.number)}
      >
        {inside}
        <span className="sr-only">
          {" "}
          {row.number}, {clockTime(start)}, {isKept ? "let it move" : "keep it in place"}
        </span>
      </button>
    </li>
  );
}
