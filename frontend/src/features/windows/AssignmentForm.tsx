import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { DayField } from "../../ui/DayField";
import { Field, INPUT } from "../../ui/Field";
import { HourField } from "../../ui/HourField";
import { Tick } from "../../ui/Ticks";
import { addDays } from "../../ui/text";
import { Weekdays } from "../../ui/Weekdays";
import { useToday } from "../access/session/useToday";
import { type Draft, ruleOf } from "./slots";

type Rule = Schemas["RuleOfAssignment"];
type Group = Schemas["GroupWanted"];

type Props = {
  windows: Schemas["WindowsResponse"];
  isLooking: boolean;
  /** Something is another thing now: what was looked at is not what would come. */
  onChange: () => void;
  onLook: (rule: Rule, movesAssigned: boolean) => void;
};

const LENGTHS = [5, 10, 15, 20, 30, 60, 120];

/** How windows are assigned. */
export function AssignmentForm({ windows, isLooking, onChange, onLook }: Props) {
  const id = useId();
  const today = useToday();
  const [draft, setDraft] = useState<Draft>(() => begin(windows, today));
  const [moves, setMoves] = useState(false);
  const rule = ruleOf(draft);
  const set = (change: Partial<Draft>) => {
    setDraft({ ...draft, ...change });
    onChange();
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (rule) onLook(rule, moves);
  };
  const hasAssigned = windows.assignments.length > 0;
  return (
    <form className="mt-4 mb-4 border border-hair bg-surface px-4 py-4" onSubmit={submit}>
      <div className="grid gap-x-5 gap-y-3 sm:grid-cols-2 lg:grid-cols-4">
        <DayField
          label="First slots on"
          required
          today={today}
          value={draft.firstDay}
          onChange={(firstDay) => set({ firstDay })}
        />
        <div className="grid grid-cols-2 gap-2">
          <HourField label="From" value={draft.starts} onChange={(starts) => set({ starts })} />
          <HourField label="To" value={draft.ends} onChange={(ends) => set({ ends })} />
        </div>
        <Field id={`${id}-slot`} label="A slot every">
          <select
            id={`${id}-slot`}
            className={INPUT}
            value={draft.slotMinutes}
            onChange={(event) => set({ slotMinutes: Number(event.target.value) })}
          >
            {LENGTHS.map((minutes) => (
              <option key={minutes} value={minutes}>
                {minutes} minutes
              </option>
            ))}
          </select>
        </Field>
        <Field id={`${id}-many`} label="Students a slot">
          <input
            id={`${id}-many`}
            className={INPUT}
            type="number"
            required
            min={1}
            max={100_000}
            value={Number.isNaN(draft.capacity) ? "" : draft.capacity}
            onChange={(event) => set({ capacity: event.target.valueAsNumber })}
          />
        </Field>
        <fieldset className="sm:col-span-2">
          <legend className="mb-1 text-[13px]">On</legend>
          <Weekdays value={draft.weekdays} onChange={(weekdays) => set({ weekdays })} />
        </fieldset>
        <DayField
          label="All close on"
          required
          today={today}
          min={draft.firstDay || undefined}
          value={draft.closesDay}
          onChange={(closesDay) => set({ closesDay })}
        />
        <HourField label="At" value={draft.closesAt} onChange={(closesAt) => set({ closesAt })} />
        <Field id={`${id}-bands`} label="Bands begin at so many credits">
          <input
            id={`${id}-bands`}
            className={INPUT}
            maxLength={80}
            placeholder="81, 54, 27"
            value={draft.bands}
            onChange={(event) => set({ bands: event.target.value })}
          />
        </Field>
        <Field id={`${id}-seed`} label="Seed of the draw">
          <input
            id={`${id}-seed`}
            className={INPUT}
            required
            maxLength={80}
            value={draft.seed}
            onChange={(event) => set({ seed: event.target.value })}
          />
        </Field>
        <div className="sm:col-span-2">
          <Groups windows={windows} groups={draft.groups} onChange={(groups) => set({ groups })} />
        </div>
      </div>
      <div className="mt-4 flex flex-wrap items-center gap-x-5 gap-y-2">
        <Button type="submit" look="main" disabled={!rule || isLooking}>
          {isLooking ? "Assigning…" : "Look at it"}
        </Button>
        {hasAssigned && (
          <Tick
            checked={moves}
            onChange={(checked) => {
              setMoves(checked);
              onChange();
            }}
          >
            Assign those anew that were assigned before and have not opened yet
          </Tick>
        )}
        {!rule && <p className="text-[13px] text-soft">Something is missing yet.</p>}
      </div>
    </form>
  );
}

/** What a form begins with: the rule published last, or what is usual. */
function begin({ assignments }: Schemas["WindowsResponse"], today: string): Draft {
  const last = assignments[0]?.rule;
  if (last)
    return {
      firstDay: last.first_day,
      weekdays: last.weekdays,
      starts: last.starts,
      ends: last.ends,
      slotMinutes: last.slot_minutes,
      capacity: last.capacity,
      closesDay: last.closes_at.slice(0, 10),
      closesAt: Number(last.closes_at.slice(11, 13)) * 60 + Number(last.closes_at.slice(14, 16)),
      bands: last.bands.join(", "),
      groups: last.groups ?? [],
      seed: last.seed,
    };
  return {
    firstDay: today && addDays(today, 14),
    weekdays: "MTWRF",
    starts: 8 * 60,
    ends: 17 * 60,
    slotMinutes: 30,
    capacity: 60,
    closesDay: today && addDays(today, 42),
    closesAt: 17 * 60,
    bands: "81, 54, 27",
    groups: [],
    seed: "",
  };
}

type GroupsProps = {
  windows: Schemas["WindowsResponse"];
  groups: Group[];
  onChange: (groups: Group[]) => void;
};

/** Groups that choose before the bands. */
function Groups({ windows, groups, onChange }: GroupsProps) {
  const id = useId();
  const there = [
    ...windows.cohorts.map((value) => ({ kind: "cohort" as const, value })),
    ...windows.programs.map((value) => ({ kind: "program" as const, value })),
  ];
  const free = there.filter(
    ({ kind, value }) => !groups.some((group) => group.kind === kind && group.value === value),
  );
  return (
    <>
      <label htmlFor={id} className="mb-1 block text-[13px]">
        Groups before the bands
      </label>
      {groups.length > 0 && (
        <ol className="mb-1.5">
          {groups.map((group, index) => (
            <li key={`${group.kind} ${group.value}`} className="flex items-baseline gap-3">
              <span>
                {index + 1}. {group.kind} {group.value}
              </span>
              <Button look="link" onClick={() => onChange(groups.filter((one) => one !== group))}>
                Leave out<span className="sr-only"> {group.value}</span>
              </Button>
            </li>
          ))}
        </ol>
      )}
      <select
        id={id}
        className={INPUT}
        value=""
        onChange={(event) => {
          const chosen = free[Number(event.target.value)];
          if (chosen) onChange([...groups, chosen]);
        }}
      >
        <option value="">
          {free.length === 0
            ? "No other group"
            : groups.length > 0
              ? "Add another"
              : "None; add one"}
        </option>
        {free.map(({ kind, value }, index) => (
          <option key={`${kind} ${value}`} value={index}>
            {kind} {value}
          </option>
        ))}
      </select>
    </>
  );
}
