import { addDays, clockTime, dayOfWeek, shortDay } from "../../ui/text";
import {
  type Entry,
  hoursOf,
  type Placed,
  placeWeek,
  tintsOf,
  type WeekEntryState,
} from "./layout";

const HOUR = 42;

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

type Props = { entries: Entry[]; monday: string; breaks: Map<string, string> };

export function WeekGrid({ entries, monday, breaks }: Props) {
  const placed = placeWeek(entries, monday);
  const [from, to] = hoursOf(entries);
  const last = placed.some((p) => p.day === 6) ? 7 : placed.some((p) => p.day === 5) ? 6 : 5;
  const days = Array.from({ length: last }, (_, n) => addDays(monday, n));
  const hours = Array.from({ length: to - from }, (_, n) => from + n);
  const tints = tintsOf(entries.map((entry) => entry.section));
  const columns = { gridTemplateColumns: `34px repeat(${last}, minmax(0, 1fr))` };
  return (
    <section aria-label={`Week of ${shortDay(monday)}`}>
      <div className="grid py-1 text-[13px]" style={columns}>
        <span />
        {days.map((day) => (
          <h2 key={day} className="truncate pl-2 font-sans text-[13px] font-normal">
            {dayOfWeek(day)}
          </h2>
        ))}
      </div>
      <div className="grid border-t border-ink" style={columns}>
        <div className="relative" style={{ height: hours.length * HOUR }} aria-hidden>
          {hours.slice(1).map((hour) => (
            <span
              key={hour}
              className="absolute right-1.5 -translate-y-1/2 text-[11.5px] text-soft"
              style={{ top: (hour - from) * HOUR }}
            >
              {hour}
            </span>
          ))}
        </div>
        {days.map((day, index) => (
          <ol
            key={day}
            aria-label={dayOfWeek(day)}
            className="relative border-l border-hair"
            style={{
              backgroundImage: `repeating-linear-gradient(to bottom, transparent 0 ${HOUR - 1}px, var(--color-hair) ${HOUR - 1}px ${HOUR}px)`,
            }}
          >
            {breaks.has(day) && (
              <li className="absolute inset-0 bg-shade/80 p-2 text-small text-soft">
                {breaks.get(day)}
              </li>
            )}
            {placed
              .filter((item) => item.day === index)
              .map((item) => (
                <Class
                  key={`${item.section.number}-${item.start}`}
                  item={item}
                  from={from}
                  tints={tints}
                />
              ))}
          </ol>
        ))}
      </div>
    </section>
  );
}

type ClassProps = { item: Placed; from: number; tints: ReturnType<typeof tintsOf> };

function Class({ item, from, tints }: ClassProps) {
  const { section, state, start, end, room, lane, lanes, clashes, tight } = item;
  const tint = tints.get(section.course.split(" ")[0] ?? "");
  const height = ((end - start) / 60) * HOUR - 1;
  const word = clashes
    ? lanes > 2
      ? "clash"
      : "clashes"
    : tight
      ? `${WORDS[state]}, tight`
      : WORDS[state];
  const style = {
    top: ((start - from * 60) / 60) * HOUR,
    height,
    left: `calc(${(lane / lanes) * 100}% + 3px)`,
    width: `calc(${100 / lanes}% - 6px)`,
    ...(state === "registered" && tint
      ? { backgroundColor: tint.fill, borderLeftColor: tint.edge }
      : {}),
  };
  return (
    <li
      className={`absolute overflow-hidden rounded-[2px] px-1.5 py-0.5 text-[12px] leading-[1.22] ${LOOKS[state]} ${clashes ? "hatched" : ""}`}
      style={style}
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
