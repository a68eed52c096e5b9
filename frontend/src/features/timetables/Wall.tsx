import { type KeyboardEvent, useRef } from "react";
import type { Schemas } from "../../api/client";
import { clockTime } from "../../ui/text";
import type { Criterion, KeptFree } from "./question";
import { SmallWeek } from "./SmallWeek";
import { tintsOfWall } from "./tints";
import { idOf, type OnWall, type Rows } from "./useTimetables";
import { freeDays, gapWords, placeWords, planOf, summary, type Timetable } from "./words";

type Props = {
  wall: OnWall[];
  rows: Rows;
  /** What the caption tells beside the start. */
  order: Criterion[];
  kept: KeptFree[];
  shown: Timetable | undefined;
  /** The plans in the cart: their letters stand on the wall. */
  plans: Schemas["PlanResponse"][];
  onShow: (numbers: string[]) => void;
};

const STEPS: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 6, ArrowUp: -6 };

/** The timetables as small weeks, the best first. The arrow keys walk through them. */
export function Wall({ wall, rows, order, kept, shown, plans, onShow }: Props) {
  const tints = tintsOfWall(rows, wall);
  const list = useRef<HTMLDivElement>(null);
  const at = Math.max(
    0,
    wall.findIndex(({ timetable }) => shown && idOf(timetable) === idOf(shown)),
  );
  const walk = (event: KeyboardEvent) => {
    const row = columnsOf(list.current);
    const step =
      event.key === "Home"
        ? -at
        : event.key === "End"
          ? wall.length - 1 - at
          : (STEPS[event.key] ?? 0) *
            (event.key.endsWith("n") || event.key.endsWith("p") ? row / 6 : 1);
    const next = wall[at + step];
    if (!step || !next) return;
    event.preventDefault();
    onShow(next.timetable.numbers);
    list.current?.querySelectorAll<HTMLElement>('[role="option"]')[at + step]?.focus();
  };
  return (
    <div
      ref={list}
      role="listbox"
      aria-label="Timetables, the best first"
      className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(72px,1fr))] gap-x-2.5 gap-y-2"
      onKeyDown={walk}
    >
      {wall.map(({ timetable, isGone }, place) => {
        const isShown = place === at && shown !== undefined;
        const id = idOf(timetable);
        const letter = planOf(timetable, plans);
        return (
          <div
            key={id}
            role="option"
            tabIndex={place === at ? 0 : -1}
            aria-selected={isShown}
            className={`relative cursor-pointer px-1 pt-1 pb-0.5 ${isShown ? "outline outline-ink" : "hover:outline hover:outline-hair"} focus-visible:outline-2 focus-visible:outline-pine`}
            onClick={() => onShow(timetable.numbers)}
            onKeyDown={(event) => {
              if (event.key === "Enter" || event.key === " ") {
                event.preventDefault();
                onShow(timetable.numbers);
              }
            }}
          >
            <span className="sr-only">
              {`${placeWords(place)}: ${summary(timetable)}${isGone ? ", full now" : ""}${letter ? `, plan ${letter}` : ""}`}
            </span>
            <span className="relative block" aria-hidden>
              <SmallWeek
                rows={timetable.numbers.flatMap((number) => rows[number] ?? [])}
                tints={tints}
                kept={kept}
                isGone={isGone}
              />
              {letter && (
                <b className="absolute top-0 right-0 bg-paper px-1 text-[11.5px] font-semibold text-pine">
                  {letter}
                </b>
              )}
            </span>
            <span className="block truncate pt-0.5 text-[11.5px]" aria-hidden>
              <Caption timetable={timetable} isGone={isGone} order={order} />
            </span>
          </div>
        );
      })}
    </div>
  );
}

function columnsOf(list: HTMLElement | null): number {
  return list ? getComputedStyle(list).gridTemplateColumns.split(" ").length : 6;
}

function Caption({ timetable, isGone, order }: OnWall & { order: Criterion[] }) {
  const { start, gaps } = timetable;
  if (isGone) return <span className="text-madder">full now</span>;
  if (start === null) return "any time";
  const free = order.includes("days free") ? freeDays(timetable).join(" ") : "";
  return (
    <>
      <b className="font-semibold">{clockTime(start).replace(/^0/, "")}</b>{" "}
      {free ? `${free} free` : gapWords(gaps)}
    </>
  );
}
