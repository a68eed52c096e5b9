import { useId } from "react";
import { Field, INPUT } from "./Field";

type Props = {
  label: string;
  value: string;
  onChange: (username: string) => void;
  required?: boolean;
};

/** Somebody's user name, typed: nothing is filled in or made a capital. */
export function UserNameField({ label, value, onChange, required = false }: Props) {
  const id = useId();
  return (
    <div className="w-48">
      <Field id={id} label={label}>
        <input
          id={id}
          className={INPUT}
          required={required}
          autoComplete="off"
          autoCapitalize="none"
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      </Field>
    </div>
  );
}
