import { ChevronLeft, ChevronRight } from "lucide-react";
import { lazy, Suspense } from "react";
import type { Schemas } from "../../../api/client";
import { pressable } from "../../../ui/pressable";
import { addDays, mondayOf, parseDay, shortDay } from "../../../ui/text";

type Term = Schemas["TermResponse"];
type Props = { term: Term; monday: string; onChange: (monday: string) => void };

const WEEK = 7 * 86_400_000;

const SliderBar = lazy(async () => ({ default: (await import("./SliderBar")).SliderBar }));

/** The Mondays of a term's weeks. */
export function weeksOf(term: Term): string[] {
  const weeks: string[] = [];
  for (let day = mondayOf(term.first_day); day <= term.last_day; day = addDays(day, 7))
    weeks.push(day);
  return weeks;
}

/** Walks the term week by week; its halves and breaks are marked on it. */
export function WeekSlider({ term, monday, onChange }: Props) {
  const weeks = weeksOf(term);
  const index = Math.max(0, weeks.indexOf(monday));
  const start = parseDay(weeks[0] ?? term.first_day).getTime();
  const at = (day: string) =>
    `${Math.min(100, Math.max(0, ((parseDay(day).getTime() - start) / WEEK / weeks.length) * 100))}%`;
  const halves = term.sessions.filter(
    (session) => session.code === "first" || session.code === "second",
  );
  const breaks = term.breaks.filter((b) => b.first_day !== b.last_day);
  const step = (by: number) => {
    const next = weeks[index + by];
    if (next) onChange(next);
  };
  const arrow = "rounded-sm p-1 text-soft hover:bg-shade hover:text-ink aria-disabled:opacity-40";
  return (
    <div className="my-3 flex items-center gap-2 text-[13px]">
      <button
        type="button"
        className={arrow}
        aria-label="Week before"
        {...pressable(index === 0, () => step(-1))}
      >
        <ChevronLeft size={16} aria-hidden />
      </button>
      <span className="whitespace-nowrap max-sm:hidden">{shortDay(term.first_day)}</span>
      <div className="relative h-7 flex-1">
        {breaks.map((b) => (
          <span
            key={b.first_day}
            className="absolute top-0 h-5 bg-hair"
            style={{ left: at(b.first_day), width: `${100 / weeks.length}%` }}
            title={`${b.name}, ${shortDay(b.first_day)} to ${shortDay(b.last_day)}`}
          />
        ))}
        {halves.map((half) => (
          <span
            key={half.code}
            className="absolute top-0 h-5 truncate border-l border-ink pl-1.5 text-[11.5px] text-soft"
            style={{ left: at(half.first_day) }}
          >
            {half.name}
          </span>
        ))}
        <Suspense fallback={<span className="absolute inset-x-0 bottom-2 h-px bg-ink" />}>
          <SliderBar
            most={weeks.length - 1}
            index={index}
            said={`Week of ${shortDay(weeks[index] ?? term.first_day)}`}
            onChange={(next) => {
              const chosen = weeks[next];
              if (chosen) onChange(chosen);
            }}
          />
        </Suspense>
      </div>
      <span className="whitespace-nowrap max-sm:hidden">{shortDay(term.last_day)}</span>
      <button
        type="button"
        className={arrow}
        aria-label="Week after"
        {...pressable(index === weeks.length - 1, () => step(1))}
      >
        <ChevronRight size={16} aria-hidden />
      </button>
    </div>
  );
}
