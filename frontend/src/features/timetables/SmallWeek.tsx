import type { Tint } from "../../ui/hours/tints";
import { classesOf, daysFor, type Row } from "./hours";
import type { KeptFree } from "./question";

type Props = { rows: Row[]; tints: Map<string, Tint>; kept: KeptFree[]; isGone: boolean };

const FROM = 8 * 60;
const TO = 20 * 60;
const HEIGHT = 48;

/** A timetable in the size of a stamp: what is said of it stands beside it. */
export function SmallWeek({ rows, tints, kept, isGone }: Props) {
  const classes = classesOf(rows);
  const days = daysFor(classes, []);
  const place = (start: number, end: number) => {
    const top = (Math.max(0, Math.min(start, TO - 40) - FROM) / (TO - FROM)) * HEIGHT;
    const height = ((Math.min(end, TO) - Math.max(start, FROM)) / (TO - FROM)) * HEIGHT;
    return { top, height: Math.max(2.5, height - 0.5) };
  };
  return (
    <span
      className="grid gap-px forced-color-adjust-none"
      style={{ gridTemplateColumns: `repeat(${days}, minmax(0, 1fr))`, height: HEIGHT }}
      aria-hidden
    >
      {Array.from({ length: days }, (_, day) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a weekday is its place
        <span key={day} className={`relative block bg-shade ${isGone ? "hatched" : ""}`}>
          {kept
            .filter(({ weekdays, is_must }) => is_must && weekdays.includes(day))
            .map(({ start, end, label }) => (
              <span
                key={`${label}${start}`}
                className="kept-free absolute inset-x-0"
                style={place(start, end)}
              />
            ))}
          {classes
            .filter((one) => one.day === day)
            .map(({ row, start, end, lane, lanes }) => (
              <span
                key={`${row.number}${start}`}
                className={`absolute ${isGone ? "opacity-45" : ""}`}
                style={{
                  ...place(start, end),
                  left: `${(lane / lanes) * 100}%`,
                  width: `${100 / lanes}%`,
                  backgroundColor: tints.get(row.course.split(" ")[0] ?? "")?.edge,
                }}
              />
            ))}
        </span>
      ))}
    </span>
  );
}
