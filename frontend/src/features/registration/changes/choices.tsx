/** The two things that can be chosen for a section, whether it is in the cart or held. */
import type { Schemas } from "../../../api/client";
import { Field, INPUT } from "../../../ui/Field";

type GradingProps = {
  id: string;
  gradings: Schemas["GradingResponse"][];
  value: string;
  onChange: (grading: Schemas["GradingResponse"]) => void;
};

export function GradingField({ id, gradings, value, onChange }: GradingProps) {
  return (
    <Field id={id} label="Grading">
      <select
        id={id}
        className={INPUT}
        value={value}
        onChange={(event) => {
          const chosen = gradings.find(({ name }) => name === event.target.value);
          if (chosen) onChange(chosen);
        }}
      >
        {gradings.map(({ name }) => (
          <option key={name}>{name}</option>
        ))}
      </select>
    </Field>
  );
}

type CreditsProps = {
  id: string;
  least: number;
  most: number;
  value: string;
  onChange: (credits: string) => void;
};

export function CreditsField({ id, least, most, value, onChange }: CreditsProps) {
  return (
    <Field id={id} label={`Credits, ${least} to ${most}`}>
      <input
        id={id}
        className={INPUT}
        type="number"
        step={0.5}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </Field>
  );
}
