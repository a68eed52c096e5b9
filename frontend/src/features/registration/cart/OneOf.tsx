import { useId } from "react";

type Props<T extends string> = {
  legend: string;
  values: readonly (readonly [value: T, name: string])[];
  chosen: T;
  onChoose: (value: T) => void;
};

/** One of a few ways to send, as words of which the chosen is underlined. */
export function OneOf<T extends string>({ legend, values, chosen, onChoose }: Props<T>) {
  const name = useId();
  return (
    <fieldset className="mb-2.5 flex flex-wrap gap-x-4 gap-y-1 text-[13px]">
      <legend className="sr-only">{legend}</legend>
      {values.map(([value, face]) => (
        <label
          key={value}
          className={`cursor-pointer pb-0.5 has-focus-visible:outline-2 has-focus-visible:outline-offset-2 has-focus-visible:outline-pine ${chosen === value ? "border-b-2 border-pine font-semibold" : "text-soft hover:text-ink"}`}
        >
          <input
            type="radio"
            name={name}
            className="sr-only"
            checked={chosen === value}
            onChange={() => onChoose(value)}
          />
          {face}
        </label>
      ))}
    </fieldset>
  );
}
