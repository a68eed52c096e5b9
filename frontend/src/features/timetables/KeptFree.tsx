import { useEffect, useId, useRef, useState } from "react";
import { Button } from "../../ui/Button";
import { DayField } from "../../ui/DayField";
import { Dropdown } from "../../ui/Dropdown";
import { Field, INPUT } from "../../ui/Field";
import { clockTime } from "../../ui/text";
import { useToday } from "../access/session/useToday";
import { Pick } from "./Pick";
import type { KeptFree } from "./question";
import type { Asking } from "./useQuestion";
import { hoursWords, minutesOf } from "./words";

/** Hours drawn into the week with the mouse. */
export type Drawn = { day: number; start: number; end: number };

type Props = { asking: Asking; drawn: Drawn | null; onDrawn: () => void };

const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const USUAL: KeptFree = {
  weekdays: [],
  start: 13 * 60,
  end: 17 * 60,
  label: "",
  is_must: true,
  first: null,
  last: null,
};

/** The hours that are to be kept free; pressed, they are changed or given back. */
export function KeptFreeList({ asking, drawn, onDrawn }: Props) {
  const kept = asking.question.kept_free;
  const put = (edit: (all: KeptFree[]) => KeptFree[]) =>
    asking.ask((question) => ({ ...question, kept_free: edit(question.kept_free) }));
  return (
    <section aria-labelledby="kept-free">
      <h2 id="kept-free" className="text-[18px]">
        Kept free
      </h2>
      <ul className="border-t border-hair">
        {kept.map((one, place) => (
          <li key={`${one.label}${hoursWords(one)}${one.first}`} className="border-b border-hair">
            <Dropdown
              className="group grid w-full grid-cols-[minmax(0,1fr)_auto] gap-x-2 py-1.5 text-left"
              face={
                <>
                  <span className="group-hover:underline">
                    {one.label && <b className="font-semibold">{one.label} </b>}
                    {hoursWords(one)}
                  </span>
                  <span className="text-small text-soft">{one.is_must ? "must" : "rather"}</span>
                  {(one.first || one.last) && (
                    <span className="col-span-2 text-small text-soft">
                      {one.first ?? "from the start"} to {one.last ?? "the end"}
                    </span>
                  )}
                </>
              }
              title={one.label || hoursWords(one)}
              align="start"
              look={LOOK}
            >
              <Form
                kept={one}
                word="Keep these free"
                onKeep={(next) => put((all) => all.map((other, n) => (n === place ? next : other)))}
              />
              <Button
                look="quiet"
                className="mt-2"
                onClick={() => put((all) => all.filter((_, n) => n !== place))}
              >
                Do not keep them free
              </Button>
            </Dropdown>
          </li>
        ))}
      </ul>
      <p className="pt-1.5">
        <Dropdown
          key={kept.length}
          face="Keep hours free"
          className="link min-h-[26px] text-left font-semibold"
          title="Keep hours free"
          align="start"
          look={LOOK}
        >
          <Form
            kept={USUAL}
            word="Keep these free"
            onKeep={(next) => put((all) => [...all, next])}
          />
        </Dropdown>
      </p>
      <InPlace asking={asking} />
      {drawn && (
        <Named
          key={`${drawn.day} ${drawn.start} ${drawn.end}`}
          drawn={drawn}
          onKeep={(next) => {
            put((all) => [...all, next]);
            onDrawn();
          }}
          onLeave={onDrawn}
        />
      )}
    </section>
  );
}

/** Sections that every timetable is to have: pressed in the week, let go here or there. */
function InPlace({ asking }: { asking: Asking }) {
  const { keeps } = asking.question;
  if (keeps.length === 0) return null;
  return (
    <>
      <h3 className="mt-3 font-sans text-[13px] text-soft">Kept in place</h3>
      <ul className="border-t border-hair">
        {keeps.map((number) => (
          <li
            key={number}
            className="flex items-center justify-between gap-2 border-b border-hair py-1"
          >
            <span className="number">{number}</span>
            <Button
              look="link"
              className="min-h-[24px] text-small"
              onClick={() =>
                asking.ask(({ keeps: all, ...rest }) => ({
                  ...rest,
                  keeps: all.filter((other) => other !== number),
                }))
              }
            >
              let it move<span className="sr-only"> {number}</span>
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}

const LOOK = "max-h-[min(520px,76dvh)] w-[min(300px,calc(100vw-24px))] overflow-auto p-3.5";

type NamedProps = { drawn: Drawn; onKeep: (kept: KeptFree) => void; onLeave: () => void };

/** What was drawn, to be looked at once more before it counts. */
function Named({ drawn, onKeep, onLeave }: NamedProps) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    place.current?.querySelector("input")?.focus();
    place.current?.scrollIntoView({ block: "nearest" });
  }, []);
  const { day, start, end } = drawn;
  return (
    <div ref={place} className="mt-2 border border-ink bg-surface p-3.5">
      <Form
        kept={{ ...USUAL, weekdays: [day], start, end }}
        word="Keep these free"
        onKeep={onKeep}
      />
      <Button look="quiet" className="mt-2" onClick={onLeave}>
        Leave it
      </Button>
    </div>
  );
}

type FormProps = { kept: KeptFree; word: string; onKeep: (kept: KeptFree) => void };

function Form({ kept, word, onKeep }: FormProps) {
  const id = useId();
  const today = useToday();
  const [label, setLabel] = useState(kept.label);
  const [days, setDays] = useState(kept.weekdays.map(String));
  const [from, setFrom] = useState(clockTime(kept.start));
  const [to, setTo] = useState(clockTime(kept.end));
  const [must, setMust] = useState(kept.is_must);
  const [first, setFirst] = useState(kept.first ?? "");
  const [last, setLast] = useState(kept.last ?? "");
  const [dated, setDated] = useState(Boolean(kept.first || kept.last));
  const start = minutesOf(from);
  const end = minutesOf(to);
  const dates = dated ? [first, last] : ["", ""];
  const wrong = mistakeIn(days, start, end, dates);
  const [isTried, setIsTried] = useState(false);
  return (
    <form
      className="space-y-3 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        setIsTried(true);
        if (wrong || start === null || end === null) return;
        onKeep({
          weekdays: days.map(Number).sort(),
          start,
          end,
          label: label.trim().replaceAll(";", ","),
          is_must: must,
          first: dates[0] || null,
          last: dates[1] || null,
        });
      }}
    >
      <Field id={`${id}label`} label="What for (you need not say)">
        <input
          id={`${id}label`}
          className={INPUT}
          maxLength={40}
          autoComplete="off"
          placeholder="Work, the bus home"
          value={label}
          onChange={({ target }) => setLabel(target.value)}
        />
      </Field>
      <Pick
        legend="Days"
        values={DAYS.map((name, day) => [String(day), name])}
        chosen={days}
        onChange={setDays}
      />
      <div className="grid grid-cols-2 gap-2.5">
        <Field id={`${id}from`} label="From">
          <input
            id={`${id}from`}
            className={INPUT}
            autoComplete="off"
            maxLength={5}
            value={from}
            onChange={({ target }) => setFrom(target.value)}
          />
        </Field>
        <Field id={`${id}to`} label="To">
          <input
            id={`${id}to`}
            className={INPUT}
            autoComplete="off"
            maxLength={5}
            value={to}
            onChange={({ target }) => setTo(target.value)}
          />
        </Field>
      </div>
      <Pick
        legend="How much it matters"
        single
        values={[
          ["must", "must be free"],
          ["rather", "rather free"],
        ]}
        chosen={[must ? "must" : "rather"]}
        onChange={([value]) => setMust(value === "must")}
      />
      {dated ? (
        <div className="grid grid-cols-2 gap-2.5">
          <DayField label="First date" today={today} value={first} onChange={setFirst} />
          <DayField
            label="Last date"
            today={today}
            min={first || undefined}
            value={last}
            onChange={setLast}
          />
        </div>
      ) : (
        <Button look="link" className="block min-h-[26px]" onClick={() => setDated(true)}>
          Only between two dates
        </Button>
      )}
      {isTried && wrong && (
        <p role="alert" className="text-madder">
          {wrong}
        </p>
      )}
      <Button type="submit">{word}</Button>
    </form>
  );
}

function mistakeIn(
  days: string[],
  start: number | null,
  end: number | null,
  [first, last]: string[],
): string {
  if (days.length === 0) return "Choose a day or more.";
  if (start === null || end === null) return "Write hours such as 13:00 or 17:30.";
  if (end <= start) return "Let the hours end later than they begin.";
  if (first && last && last < first)
    return "The dates run backwards; let the last be after the first.";
  return "";
}
