import type { Schemas } from "../../../api/client";
import { type Busy, useMine } from "./useMine";

type Row = Schemas["SectionRow"];

const HEIGHT = 30;
const FROM = 8 * 60;
const TO = 22 * 60;
const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/**
 * A tiny picture of the week: when the section meets, drawn over one's own week. Where it clashes
 * it is hatched, so that a clash is seen before it is read.
 */
export function WeekStrip({ row, width = 108 }: { row: Row; width?: number }) {
  const { busy } = useMine();
  const own = row.meetings.flatMap((meeting) =>
    meeting.weekdays.map((day) => ({ number: row.number, day, ...meeting })),
  );
  const beside = busy.filter((time) => time.number !== row.number);
  const last = Math.max(4, ...own.map(({ day }) => day), ...beside.map(({ day }) => day));
  const clashing = new Set(row.fit.clashes.map(({ number }) => number));
  const isClash = (time: { day: number; start: number; end: number }) =>
    beside.some(
      (other) =>
        clashing.has(other.number) &&
        other.day === time.day &&
        other.start < time.end &&
        time.start < other.end,
    );
  const step = width / (last + 1);
  const place = ({ day, start, end }: Pick<Busy, "day" | "start" | "end">) => {
    const top = (Math.max(0, start - FROM) / (TO - FROM)) * HEIGHT;
    const height = (Math.min(end, TO) - Math.max(start, FROM)) / ((TO - FROM) / HEIGHT);
    return { left: day * step, top, width: step - 2, height: Math.max(2, height) };
  };
  return (
    <div
      role="img"
      aria-label={inWords(row)}
      className="relative forced-color-adjust-none"
      style={{ width, height: HEIGHT }}
    >
      {Array.from({ length: last + 1 }, (_, day) => (
        <span
          key={DAYS[day]}
          className="absolute inset-y-0 bg-shade"
          style={{ left: day * step, width: step - 2 }}
        />
      ))}
      {beside.map((time) => (
        <span
          key={`${time.number}-${time.day}-${time.start}`}
          className="absolute bg-[#c5bdaa]"
          style={place(time)}
        />
      ))}
      {own.map((time) => (
        <span
          key={`${time.day}-${time.start}-${time.first_day}`}
          className={`absolute ${isClash(time) ? "border border-madder hatched-strong" : "bg-pine"}`}
          style={place(time)}
        />
      ))}
    </div>
  );
}

function inWords({ meetings, fit }: Row): string {
  if (meetings.length === 0) return "No set times";
  const times = meetings.map(
    ({ weekdays, pattern }) =>
      `${weekdays.map((day) => DAYS[day]).join(" and ")} ${pattern.split(" ")[1]}`,
  );
  const clashes = fit.clashes.map(({ name }) => name).join(" and ");
  return times.join(", ") + (clashes ? `; clashes with ${clashes}` : "");
}
