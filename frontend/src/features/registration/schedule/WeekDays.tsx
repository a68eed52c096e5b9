import { useState } from "react";
import { Link } from "react-router";
import { type Tint, tintsOf } from "../../../ui/hours/tints";
import { addDays, clockTime, counted, dayOfWeek, weekday } from "../../../ui/text";
import { useSectionLink } from "../../catalogue/section/useSectionLink";
import { gapWords, nextDayWords } from "./days";
import { type Entry, type Placed, placeWeek, type WeekEntryState } from "./layout";

type Props = { entries: Entry[]; monday: string; breaks: Map<string, string>; today: string };

const LOOKS: Record<WeekEntryState, string> = {
  registered: "border-l-[3px]",
  dropped: "border border-dashed border-soft text-soft line-through",
  added: "border border-dashed border-pine text-pine",
  swapped: "border border-dashed border-pine text-pine",
  planned: "border border-dashed border-woad text-woad",
  stopped: "border border-dashed border-madder text-madder",
};

const WORDS: Record<WeekEntryState, string> = {
  registered: "",
  dropped: "drop is in your cart",
  added: "only in your cart",
  swapped: "swap is in your cart",
  planned: "only in your cart",
  stopped: "in your cart, stopped",
};

const FROM = 8 * 60;
const TO = 20 * 60;

/** The week on a phone: its days as a strip, and the classes of one of them, one below the other. */
export function WeekDays({ entries, monday, breaks, today }: Props) {
  const placed = placeWeek(entries, monday);
  const last = Math.max(4, ...placed.map(({ day }) => day));
  const isThisWeek = today >= monday && today <= addDays(monday, last);
  const first = isThisWeek ? weekday(today) : Math.min(4, ...placed.map(({ day }) => day));
  const [chosen, setChosen] = useState<{ monday: string; day: number } | null>(null);
  const day = chosen?.monday === monday ? chosen.day : first;
  const tints = tintsOf(entries.map((entry) => entry.section));
  const days = Array.from({ length: last + 1 }, (_, n) => n);
  const classes = placed.filter((item) => item.day === day);
  const date = addDays(monday, day);
  return (
    <section aria-label="The days of this week" className="sm:hidden">
      <div className="flex border-t border-ink pt-1">
        {days.map((n) => (
          <button
            key={n}
            type="button"
            aria-pressed={n === day}
            className={`min-w-0 flex-1 px-1 pb-1.5 text-small ${n === day ? "font-semibold shadow-[inset_0_-3px_0_var(--color-pine)]" : "text-soft"}`}
            onClick={() => setChosen({ monday, day: n })}
          >
            {dayOfWeek(addDays(monday, n))}
            <span className="sr-only">
              , {counted(placed.filter((item) => item.day === n).length, "class", "classes")}
            </span>
            <Strip items={placed.filter((item) => item.day === n)} tints={tints} />
          </button>
        ))}
      </div>
      <ol aria-label={dayOfWeek(date)} className="border-t border-hair">
        {breaks.has(date) && (
          <li className="border-b border-hair py-3 text-soft">No classes: {breaks.get(date)}.</li>
        )}
        {classes.length === 0 && !breaks.has(date) && (
          <li className="border-b border-hair py-3 text-soft">Nothing on this day.</li>
        )}
        {classes.map((item, index) => (
          <DayClass
            key={`${item.section.number}-${item.start}`}
            item={item}
            before={classes[index - 1]}
            tint={tints.get(item.section.course.split(" ")[0] ?? "")}
          />
        ))}
      </ol>
      <p className="border-t border-ink py-2 text-[13px] text-soft">
        {nextDayWords(placed, day, monday)}
      </p>
    </section>
  );
}

/** When there is something on a day, at a glance. */
function Strip({ items, tints }: { items: Placed[]; tints: Map<string, Tint> }) {
  const place = (minute: number) =>
    ((Math.min(TO, Math.max(FROM, minute)) - FROM) / (TO - FROM)) * 100;
  return (
    <span className="relative mt-1 block h-[34px] forced-color-adjust-none bg-shade" aria-hidden>
      {items.map(({ section, start, end, state }) => (
        <span
          key={`${section.number}-${start}`}
          className={`absolute inset-x-0 ${state === "registered" ? "" : "border border-dashed border-pine bg-surface"}`}
          style={{
            top: `${place(start)}%`,
            height: `${Math.max(8, place(end) - place(start))}%`,
            ...(state === "registered"
              ? { backgroundColor: tints.get(section.course.split(" ")[0] ?? "")?.edge }
              : {}),
          }}
        />
      ))}
    </span>
  );
}

type ClassProps = { item: Placed; before: Placed | undefined; tint: Tint | undefined };

function DayClass({ item, before, tint }: ClassProps) {
  const link = useSectionLink();
  const { section, start, end, room, state, clashes, tight } = item;
  const isFilled = state === "registered" && tint;
  const about = [
    room || section.delivery,
    section.instructors[0],
    WORDS[state],
    clashes ? "clashes" : "",
    tight ? "little time to get there" : "",
  ].filter(Boolean);
  return (
    <>
      {before && (
        <li className="border-b border-hair py-1.5 pl-[66px] text-small text-soft">
          {gapWords(before, item)}
        </li>
      )}
      <li className="grid grid-cols-[54px_minmax(0,1fr)] gap-x-3 border-b border-hair py-2">
        <span className="leading-tight">
          <b className="font-semibold">{clockTime(start)}</b>
          <br />
          <span className="text-soft">{clockTime(end)}</span>
        </span>
        <div
          className={`rounded-[2px] px-2.5 py-1.5 ${LOOKS[state]} ${clashes ? "hatched" : ""}`}
          style={isFilled ? { backgroundColor: tint.fill, borderLeftColor: tint.edge } : {}}
        >
          <Link className="font-semibold hover:underline" to={link(section.number)}>
            {section.name} {section.title}
          </Link>
          <p className="text-small">{about.join(" · ")}</p>
        </div>
      </li>
    </>
  );
}
