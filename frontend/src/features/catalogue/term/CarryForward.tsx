import { type FormEvent, useId, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { DayField } from "../../../ui/DayField";
import { Field, INPUT } from "../../../ui/Field";
import { ProblemNotice } from "../../../ui/Notice";
import { Sheet } from "../../../ui/Sheet";
import { Tick } from "../../../ui/Ticks";
import { addDays, counted } from "../../../ui/text";
import { useToday } from "../../access/session/useToday";
import { codeOf, nameAYearOn } from "./names";
import { useTermChanges } from "./useTermChanges";

type Props = { term: Schemas["PreparedTerm"]; onClose: () => void };
type Pause = { id: number; name: string; first_day: string; last_day: string };

/** A year, in whole weeks: the same weekday. */
const A_YEAR = 52 * 7;

/** A new term of this one: on the same weekdays, its days moved by whole weeks. */
export function CarryForward({ term, onClose }: Props) {
  const id = useId();
  const today = useToday();
  const announce = useAnnounce();
  const navigate = useNavigate();
  const { carry } = useTermChanges(term.code);
  const [name, setName] = useState(nameAYearOn(term.name));
  const [first, setFirst] = useState(addDays(term.first_day, A_YEAR));
  const [last, setLast] = useState(addDays(term.last_day, A_YEAR));
  const [breaks, setBreaks] = useState<Pause[]>([]);
  const [withStudents, setWithStudents] = useState(true);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    carry.mutate(
      {
        code: codeOf(name),
        name,
        first_day: first,
        last_day: last,
        breaks: breaks.map(({ id: _, ...pause }) => pause),
        with_students: withStudents,
      },
      {
        onSuccess: ({ code, sections, cancelled }) => {
          const left = cancelled > 0 ? ` ${cancelled} that were cancelled stayed behind.` : "";
          announce(`${counted(sections, "section", "sections")} carried forward.${left}`);
          onClose();
          navigate(`/office/${code}`);
        },
      },
    );
  };
  const set = (which: number, change: Partial<Pause>) =>
    setBreaks(breaks.map((one) => (one.id === which ? { ...one, ...change } : one)));
  return (
    <Sheet open onClose={onClose} title={`Carry ${term.name} forward`}>
      <p className="mb-4 text-soft">
        Sections with their hours, rooms and instructors come along, their days moved by whole
        weeks. The new term is in preparation; nobody sees it but you.
      </p>
      <form className="space-y-4" onSubmit={submit}>
        <Field id={`${id}-name`} label="Name of the new term">
          <input
            id={`${id}-name`}
            className={INPUT}
            required
            maxLength={80}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <div className="grid grid-cols-2 gap-3">
          <DayField label="First day" required today={today} value={first} onChange={setFirst} />
          <DayField
            label="Last day"
            required
            today={today}
            min={first || undefined}
            value={last}
            onChange={setLast}
          />
        </div>
        <fieldset>
          <legend className="mb-1 text-[13px]">Days without classes</legend>
          {breaks.map((one, index) => (
            <div key={one.id} className="mb-3 border-l-2 border-hair pl-3">
              <Field id={`${id}-break-${one.id}`} label={`Break ${index + 1}`}>
                <input
                  id={`${id}-break-${one.id}`}
                  className={INPUT}
                  required
                  maxLength={80}
                  placeholder="spring break"
                  value={one.name}
                  onChange={(event) => set(one.id, { name: event.target.value })}
                />
              </Field>
              <div className="mt-2 grid grid-cols-2 gap-3">
                <DayField
                  label="From"
                  required
                  today={today}
                  min={first || undefined}
                  value={one.first_day}
                  onChange={(first_day) => set(one.id, { first_day })}
                />
                <DayField
                  label="Through"
                  required
                  today={today}
                  min={one.first_day || undefined}
                  value={one.last_day}
                  onChange={(last_day) => set(one.id, { last_day })}
                />
              </div>
              <Button
                look="link"
                className="mt-1 text-[13px]"
                onClick={() => setBreaks(breaks.filter((other) => other !== one))}
              >
                Leave break {index + 1} out
              </Button>
            </div>
          ))}
          <Button
            onClick={() =>
              setBreaks([
                ...breaks,
                { id: (breaks.at(-1)?.id ?? 0) + 1, name: "", first_day: "", last_day: "" },
              ])
            }
          >
            Add a break
          </Button>
        </fieldset>
        <Tick checked={withStudents} onChange={setWithStudents}>
          Expect the same students
        </Tick>
        {carry.error && <ProblemNotice problem={carry.error} />}
        <Button look="main" type="submit" disabled={carry.isPending || !codeOf(name)}>
          {carry.isPending ? "Carrying it forward…" : "Carry it forward"}
        </Button>
      </form>
    </Sheet>
  );
}
