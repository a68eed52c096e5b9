import { useId, useState } from "react";
import { Field, INPUT } from "./Field";
import { dayOf, fullDay } from "./text";

const HOW = "Write the day as 23 Aug.";

type Props = {
  label: string;
  /** `2027-08-23`, or "" for none. */
  value: string;
  onChange: (day: string) => void;
  /** A day without a year is the one that comes next, seen from here. */
  today: string;
  required?: boolean;
  /** No earlier day is meant. */
  min?: string;
};

/** A day, typed as it is written everywhere else; what was understood is said below it. */
export function DayField({ label, value, onChange, today, required = false, min }: Props) {
  const id = useId();
  const [typed, setTyped] = useState(value ? fullDay(value, today) : "");
  const [isLeft, setIsLeft] = useState(false);
  const read = dayOf(typed, today);
  const wrong =
    typed.trim() === ""
      ? ""
      : read === null
        ? HOW
        : min && read < min
          ? `Not before ${fullDay(min, today)}.`
          : "";
  // Set from outside, such as a form that begins anew.
  const [told, setTold] = useState(value);
  if (value !== told) {
    setTold(value);
    setTyped(value ? fullDay(value, today) : "");
  }
  const say = (text: string) => {
    const day = dayOf(text, today);
    const next = day && !(min && day < min) ? day : "";
    setTyped(text);
    setTold(next);
    if (next !== value) onChange(next);
  };
  return (
    <Field id={id} label={label}>
      <input
        id={id}
        ref={(input) => input?.setCustomValidity(wrong)}
        className={INPUT}
        autoComplete="off"
        maxLength={20}
        placeholder="23 Aug"
        required={required}
        aria-invalid={isLeft && wrong !== ""}
        aria-describedby={`${id}-read`}
        value={typed}
        onChange={(event) => say(event.target.value)}
        onFocus={() => setIsLeft(false)}
        onBlur={() => {
          setIsLeft(true);
          if (read && !wrong) setTyped(fullDay(read, today));
        }}
      />
      {isLeft && wrong && (
        <p id={`${id}-read`} className="mt-1 whitespace-nowrap text-madder">
          {wrong}
        </p>
      )}
    </Field>
  );
}
