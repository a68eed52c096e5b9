import { useId, useState } from "react";
import { Field, INPUT } from "./Field";
import { clockTime, minuteOf } from "./text";

type Props = {
  label: string;
  /** Minutes since midnight; null while what is typed is no hour. */
  value: number | null;
  onChange: (minutes: number | null) => void;
};

/** An hour of the day, typed. */
export function HourField({ label, value, onChange }: Props) {
  const id = useId();
  const [typed, setTyped] = useState(value === null ? "" : clockTime(value));
  const wrong = typed.trim() === "" || minuteOf(typed) === null ? "Write the hour as 08:30." : "";
  return (
    <Field id={id} label={label}>
      <input
        id={id}
        ref={(input) => input?.setCustomValidity(wrong)}
        className={INPUT}
        required
        autoComplete="off"
        maxLength={8}
        placeholder="08:30"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          onChange(minuteOf(event.target.value));
        }}
        onBlur={() => value !== null && setTyped(clockTime(value))}
      />
    </Field>
  );
}
