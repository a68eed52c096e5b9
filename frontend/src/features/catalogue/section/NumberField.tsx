import { Field, INPUT } from "../../../ui/Field";

type Props = { id: string; label: string; value: string; onChange: (typed: string) => void };

/** The field of a form that was just opened, for one reference number. */
export function NumberField({ id, label, value, onChange }: Props) {
  return (
    <Field id={id} label={label}>
      <input
        id={id}
        className={`${INPUT} number`}
        inputMode="numeric"
        autoComplete="off"
        maxLength={12}
        // biome-ignore lint/a11y/noAutofocus: the form was opened by a press just now
        autoFocus
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </Field>
  );
}

/** The reference number in what was typed, or "" if it is none. */
export function typedNumber(typed: string): string {
  const digits = typed.replace(/\D/g, "");
  return digits.length === 5 ? digits : "";
}
