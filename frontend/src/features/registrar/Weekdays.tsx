const WEEKDAYS = [
  ["M", "Mon"],
  ["T", "Tue"],
  ["W", "Wed"],
  ["R", "Thu"],
  ["F", "Fri"],
  ["S", "Sat"],
  ["U", "Sun"],
] as const;

type Props = {
  /** Letters of the days chosen, in the week's order. */
  value: string;
  onChange: (weekdays: string) => void;
};

/** Weekdays to choose. */
export function Weekdays({ value, onChange }: Props) {
  return (
    <div className="flex flex-wrap gap-x-3">
      {WEEKDAYS.map(([letter, name]) => (
        <label key={letter} className="flex min-h-[32px] items-center gap-1.5">
          <input
            type="checkbox"
            className="size-4 accent-pine"
            checked={value.includes(letter)}
            onChange={() =>
              onChange(
                WEEKDAYS.map(([one]) => one)
                  .filter((one) => value.includes(one) !== (one === letter))
                  .join(""),
              )
            }
          />
          {name}
        </label>
      ))}
    </div>
  );
}
