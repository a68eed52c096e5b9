import { useId } from "react";
import { Button } from "../../../ui/Button";
import { DayField } from "../../../ui/DayField";
import { Field, INPUT } from "../../../ui/Field";
import { useToday } from "../../access/session/useToday";
import type { ReservedDraft } from "./sections";

type Props = { parts: ReservedDraft[]; onChange: (parts: ReservedDraft[]) => void };

const KINDS: ReservedDraft["kind"][] = ["cohort", "program", "campus", "residence"];

/** Seats of a section that are for some, until a day. */
export function ReservedFields({ parts, onChange }: Props) {
  const set = (place: number, change: Partial<ReservedDraft>) =>
    onChange(parts.map((part, index) => (index === place ? { ...part, ...change } : part)));
  return (
    <fieldset>
      <legend className="mb-1 text-[13px]">Reserved seats</legend>
      {parts.map((part, index) => (
        <Part
          // biome-ignore lint/suspicious/noArrayIndexKey: which part it is, is its place
          key={index}
          part={part}
          onChange={(change) => set(index, change)}
        />
      ))}
      <Button
        onClick={() =>
          onChange([
            ...parts,
            { kind: "cohort", value: "", seats: 1, release_on: null, isNew: true },
          ])
        }
      >
        Reserve seats
      </Button>
    </fieldset>
  );
}

type PartProps = { part: ReservedDraft; onChange: (change: Partial<ReservedDraft>) => void };

function Part({ part, onChange }: PartProps) {
  const id = useId();
  const today = useToday();
  return (
    <div className="mb-2 border-l-2 border-hair pl-3">
      {part.isNew ? (
        <div className="grid grid-cols-2 gap-3">
          <Field id={`${id}-kind`} label="For a">
            <select
              id={`${id}-kind`}
              className={INPUT}
              value={part.kind}
              onChange={(event) => onChange({ kind: event.target.value as ReservedDraft["kind"] })}
            >
              {KINDS.map((kind) => (
                <option key={kind}>{kind}</option>
              ))}
            </select>
          </Field>
          <Field id={`${id}-value`} label="called">
            <input
              id={`${id}-value`}
              className={INPUT}
              maxLength={80}
              value={part.value}
              onChange={(event) => onChange({ value: event.target.value })}
            />
          </Field>
        </div>
      ) : (
        <p>
          For {part.kind} {part.value}
        </p>
      )}
      <div className="mt-1 grid grid-cols-2 gap-3">
        <Field id={`${id}-seats`} label="Seats">
          <input
            id={`${id}-seats`}
            className={INPUT}
            type="number"
            min={1}
            max={100_000}
            value={Number.isNaN(part.seats) ? "" : part.seats}
            onChange={(event) => onChange({ seats: event.target.valueAsNumber })}
          />
        </Field>
        <DayField
          label="Open to all from"
          today={today}
          value={part.release_on ?? ""}
          onChange={(day) => onChange({ release_on: day || null })}
        />
      </div>
    </div>
  );
}
