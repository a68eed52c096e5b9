import { Ticks } from "./Ticks";

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
    <Ticks
      className="flex flex-wrap gap-x-3"
      among={WEEKDAYS}
      chosen={WEEKDAYS.map(([letter]) => letter).filter((letter) => value.includes(letter))}
      onChange={(letters) => onChange(letters.join(""))}
    />
  );
}
