import { useMemo } from "react";
import { BarPicture } from "../../ui/pictures/BarPicture";
import { shortDay } from "../../ui/text";
import { barName, type Bar as Slot } from "./slots";

type Props = {
  bars: Slot[];
  /** Names of the parts, as they stand in each bar. */
  parts: string[];
};

const COLOURS = ["pine", "woad", "ochre", "plum", "madder", "soft"];

/** Windows over the days. */
export function SlotPicture({ bars, parts }: Props) {
  const rows = useMemo(
    () => bars.map((bar) => ({ name: barName(bar), ...Object.fromEntries(bar.many.entries()) })),
    [bars],
  );
  const shown = parts
    .map((name, part) => ({
      key: String(part),
      name,
      part,
      fill: `var(--color-${COLOURS[part % COLOURS.length]})`,
    }))
    .filter(({ part }) => bars.some(({ many }) => (many[part] ?? 0) > 0));
  return (
    <BarPicture
      rows={rows}
      parts={shown}
      table={{
        headings: ["Day", "Opens", "Who", "Students"],
        rows: bars.flatMap((bar) =>
          shown
            .filter(({ part }) => (bar.many[part] ?? 0) > 0)
            .map(({ name, part }) => [shortDay(bar.day), bar.time, name, bar.many[part] ?? 0]),
        ),
      }}
    />
  );
}
