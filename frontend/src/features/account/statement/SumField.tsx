import { Field, INPUT } from "../../../ui/Field";

type Props = {
  id: string;
  label: string;
  value: string;
  /** The form was opened by a press just now, and this is its first field. */
  isFirst?: boolean;
  describedBy?: string;
  onChange: (text: string) => void;
};

/** A sum of money as it is typed; see `typedCents`. */
export function SumField({ id, label, value, isFirst = false, describedBy, onChange }: Props) {
  return (
    <div className="w-36">
      <Field id={id} label={label}>
        <input
          id={id}
          className={`${INPUT} text-right tabular-nums`}
          inputMode="decimal"
          placeholder="0.00"
          autoComplete="off"
          // biome-ignore lint/a11y/noAutofocus: only where a press has just opened the form
          autoFocus={isFirst}
          value={value}
          aria-describedby={describedBy}
          onChange={(event) => onChange(event.target.value)}
        />
      </Field>
    </div>
  );
}
