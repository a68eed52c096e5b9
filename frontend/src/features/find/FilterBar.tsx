import { useEffect, useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";
import { WORDS_FIELD } from "../../ui/fields";
import { clockTime } from "../../ui/text";
import { Choices } from "./Choices";
import { FilterChip, ToggleChip } from "./FilterChip";
import type { Filters, Many, Minutes } from "./filters";

type Props = {
  filters: Filters;
  counts: Schemas["FilterCounts"][];
  /** Somebody is signed in subject week can be fitted. */
  hasWeek: boolean;
  stars: number;
  recent: number;
  onEnter: () => void;
};

const MORE: Many[] = ["instructor", "delivery", "component", "credits", "level"];
const LEGENDS: Record<Many, string> = {
  subject: "Subject",
  instructor: "Instructor",
  day: "Days I have time",
  part: "Classes start in the",
  campus: "Campus",
  delivery: "Delivery",
  component: "Component",
  block: "Part of the term",
  credits: "Credits",
  level: "Level",
  counts: "Counts toward",
};

/** The filters: words first, then a chip for each; results follow as one types. */
export function FilterBar({ filters, counts, hasWeek, stars, recent, onEnter }: Props) {
  const { many, one, yes, set } = filters;
  const values = (name: string) => counts.find((c) => c.filter === name)?.values ?? [];
  const nameOf = (name: string) => (value: string) =>
    values(name).find((v) => v.value === value)?.name ?? value;
  const short = (name: Many) => {
    const chosen = many(name);
    if (name === "subject") return chosen.join(", ");
    if (name === "day") return chosen.map((day) => (day === "none" ? "no times" : day)).join(" ");
    return chosen.map((value) => nameOf(name)(value).split(",")[0]).join(", ");
  };
  const choices = (name: Many) => (
    <Choices
      legend={LEGENDS[name]}
      values={values(name)}
      chosen={many(name)}
      onChange={(chosen) => set(name, chosen)}
    />
  );
  const chip = (name: Many, label: string) => (
    <FilterChip label={label} chosen={short(name)} onClear={() => set(name, [])}>
      {choices(name)}
    </FilterChip>
  );
  const more = MORE.filter((name) => many(name).length > 0);
  const moreChosen = [...more.map(short), yes("no_textbook_cost") ? "no textbook cost" : ""];
  const count = (name: string) => values(name)[0]?.sections;
  return (
    <search className="mt-3 flex flex-wrap items-center gap-2">
      <Words value={one("words")} onChange={(words) => set("words", words)} onEnter={onEnter} />
      {chip("subject", "Subject")}
      <NumberChip value={one("number")} onChange={(number) => set("number", number)} />
      {chip("day", "Days")}
      <FilterChip label="Time" chosen={timeText(filters)} onClear={() => clearTimes(filters)}>
        {choices("part")}
        <div className="mt-3 grid grid-cols-2 gap-3">
          <TimeField name="time_from" label="Not before" filters={filters} />
          <TimeField name="time_to" label="Not after" filters={filters} />
        </div>
        <p className="mt-2 text-small text-soft">
          Sections without set times are left out, unless “no set times” is chosen under Days.
        </p>
      </FilterChip>
      {chip("campus", "Campus")}
      {chip("block", "Part of term")}
      {chip("counts", "Counts toward")}
      {hasWeek && (
        <ToggleChip
          label="Fits my week"
          {...(count("fits") !== undefined ? { count: count("fits") as number } : {})}
          on={yes("fits")}
          onChange={(on) => set("fits", on)}
        />
      )}
      <FilterChip
        label="Seats"
        chosen={one("seats") === "open" ? "left" : one("seats") ? "left or waitlist" : ""}
        onClear={() => set("seats", "")}
      >
        <Choices
          legend="Seats"
          single
          values={values("seats")}
          chosen={one("seats") ? [one("seats")] : []}
          onChange={([chosen]) => set("seats", chosen ?? "")}
        />
        <p className="mt-2 text-small text-soft">
          A full section can still be worth a look: seats come back, and many have a waitlist.
        </p>
      </FilterChip>
      <FilterChip
        label="More"
        chosen={moreChosen.filter(Boolean).join(", ")}
        onClear={() => {
          for (const name of more) set(name, []);
          set("no_textbook_cost", false);
        }}
      >
        <div className="space-y-4">
          <Choices
            legend="Books"
            values={values("no_textbook_cost").map((v) => ({ ...v, value: "yes" }))}
            chosen={yes("no_textbook_cost") ? ["yes"] : []}
            onChange={(chosen) => set("no_textbook_cost", chosen.length > 0)}
          />
          {["component", "delivery", "credits", "level", "instructor"].map((name) => (
            <div key={name}>{choices(name as Many)}</div>
          ))}
        </div>
      </FilterChip>
      {(stars > 0 || one("list") === "starred") && (
        <ToggleChip
          label="Starred"
          count={stars}
          on={one("list") === "starred"}
          onChange={(on) => set("list", on ? "starred" : "")}
        />
      )}
      {(recent > 0 || one("list") === "recent") && (
        <ToggleChip
          label="Viewed lately"
          count={recent}
          on={one("list") === "recent"}
          onChange={(on) => set("list", on ? "recent" : "")}
        />
      )}
      {filters.active > 1 && (
        <Button look="quiet" className="text-[13px]" onClick={filters.clear}>
          Clear all
        </Button>
      )}
      <Sort filters={filters} hasWeek={hasWeek} />
    </search>
  );
}

const SORTS = [
  ["course", "by course"],
  ["time", "earliest in the week first"],
  ["seats", "most seats first"],
  ["fit", "what fits first"],
] as const;

function Sort({ filters, hasWeek }: { filters: Filters; hasWeek: boolean }) {
  return (
    <label className="ml-auto flex items-center gap-2 text-[13px] text-soft">
      Order
      <select
        className="min-h-[26px] rounded-sm border border-hair bg-surface px-1.5 text-ink"
        value={filters.one("sort") || "course"}
        onChange={({ target }) =>
          filters.set("sort", target.value === "course" ? "" : target.value)
        }
      >
        {SORTS.filter(([value]) => hasWeek || value !== "fit").map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}

type WordsProps = { value: string; onChange: (words: string) => void; onEnter: () => void };

function Words({ value, onChange, onEnter }: WordsProps) {
  const [text, setText] = useTyped(value, onChange);
  return (
    <input
      id={WORDS_FIELD}
      className="min-h-[34px] w-[230px] rounded-sm border border-ink bg-white px-2.5 placeholder:text-soft max-sm:w-full"
      type="search"
      aria-label="Words, a course, an instructor or a reference number"
      placeholder="soil, bees, a name, 30412 …"
      autoComplete="off"
      maxLength={200}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === "Enter") onEnter();
      }}
    />
  );
}

function NumberChip({ value, onChange }: { value: string; onChange: (number: string) => void }) {
  const id = useId();
  const [text, setText] = useTyped(value, onChange);
  return (
    <FilterChip label="Number" chosen={value} onClear={() => onChange("")}>
      <Field id={id} label="Course number">
        <input
          id={id}
          className={INPUT}
          autoComplete="off"
          maxLength={60}
          placeholder="142, 1*, 14?"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </Field>
      <p className="mt-2 text-small text-soft">
        <b className="number">142</b> finds 142A too. <b className="number">1*</b> is every course
        of the first level, <b className="number">14?</b> those from 140 to 149.
      </p>
    </FilterChip>
  );
}

/** What is typed shows at once; the search follows a moment after the last key. */
function useTyped(value: string, onChange: (text: string) => void) {
  const [text, setText] = useState(value);
  const [sent, setSent] = useState(value);
  if (value !== sent && value !== text) {
    // It was changed from elsewhere: the address, or a press on clear.
    setText(value);
    setSent(value);
  }
  useEffect(() => {
    if (text === value) return;
    const timer = window.setTimeout(() => {
      setSent(text);
      onChange(text);
    }, 120);
    return () => window.clearTimeout(timer);
  }, [text, value, onChange]);
  return [text, setText] as const;
}

type TimeProps = { name: Minutes; label: string; filters: Filters };

function TimeField({ name, label, filters }: TimeProps) {
  const id = useId();
  const value = filters.one(name);
  return (
    <Field id={id} label={label}>
      <input
        id={id}
        className={INPUT}
        type="time"
        value={value ? clockTime(Number(value)) : ""}
        onChange={(event) => {
          const [hours, minutes] = event.target.value.split(":").map(Number);
          const minute = (hours ?? 0) * 60 + (minutes ?? 0);
          filters.set(name, event.target.value ? String(minute) : "");
        }}
      />
    </Field>
  );
}

function timeText({ many, one }: Filters): string {
  const from = one("time_from") && `from ${clockTime(Number(one("time_from")))}`;
  const to = one("time_to") && `to ${clockTime(Number(one("time_to")))}`;
  return [...many("part"), from, to].filter(Boolean).join(" ");
}

function clearTimes({ set }: Filters): void {
  set("part", []);
  set("time_from", "");
  set("time_to", "");
}
