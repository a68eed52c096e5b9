import { useId } from "react";
import { INPUT } from "../../../ui/Field";

type Props = {
  label: string;
  value: string;
  most: number;
  onChange: (value: string) => void;
  autoFocus?: boolean;
};

/** What one writes to another: as many lines as it takes, and how much room is left once it gets tight. */
export function WordsField({ label, value, most, onChange, autoFocus }: Props) {
  const id = useId();
  const left = most - value.trim().length;
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-[13px]">
        {label}
      </label>
      <textarea
        id={id}
        className={`${INPUT} min-h-[92px] leading-snug`}
        rows={4}
        aria-describedby={`${id}-left`}
        // biome-ignore lint/a11y/noAutofocus: the form was opened by a press just now
        autoFocus={autoFocus}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      <p id={`${id}-left`} className="text-small text-soft" aria-live="polite">
        {left < 0 ? (
          <span className="text-madder">
            {-left} signs too many: {most.toLocaleString("en-US")} at the most.
          </span>
        ) : left < 200 ? (
          `${left} signs left`
        ) : (
          ""
        )}
      </p>
    </div>
  );
}
