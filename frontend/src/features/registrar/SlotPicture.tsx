import { useMemo } from "react";
import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { shortDay } from "../../ui/text";
import { PictureTable } from "./PictureTable";
import { barName, type Bar as Slot } from "./slots";

type Props = {
  bars: Slot[];
  /** Names of the parts, as they stand in each bar. */
  parts: string[];
};

const COLOURS = [
  "var(--color-pine)",
  "var(--color-woad)",
  "var(--color-ochre)",
  "var(--color-plum)",
  "var(--color-madder)",
  "var(--color-soft)",
];

export function colourOf(part: number): string {
  return COLOURS[part % COLOURS.length] ?? "var(--color-pine)";
}

/** Windows over the days as bars, and the same as a table for who cannot see it. */
export function SlotPicture({ bars, parts }: Props) {
  const rows = useMemo(
    () =>
      bars.map((bar) => ({
        name: barName(bar),
        ...Object.fromEntries(bar.many.map((many, part) => [`part${part}`, many])),
      })),
    [bars],
  );
  const shown = parts
    .map((name, part) => ({ name, part }))
    .filter(({ part }) => bars.some(({ many }) => (many[part] ?? 0) > 0));
  return (
    <figure className="mt-3">
      {shown.length > 1 && (
        <figcaption className="mb-2 flex flex-wrap gap-x-5 gap-y-1 text-[13px]">
          {shown.map(({ name, part }) => (
            <span key={name} className="flex items-center gap-2">
              <span
                className="size-3 border border-transparent forced-color-adjust-none"
                style={{ background: colourOf(part) }}
                aria-hidden
              />
              {name}
            </span>
          ))}
        </figcaption>
      )}
      <div className="h-[210px] border border-hair bg-surface pt-3 pr-3" aria-hidden>
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={rows} barCategoryGap={1} accessibilityLayer={false}>
            <CartesianGrid vertical={false} stroke="var(--color-hair)" />
            <XAxis
              dataKey="name"
              tick={{ fill: "var(--color-soft)", fontSize: 12 }}
              tickLine={false}
              axisLine={{ stroke: "var(--color-ink)" }}
              minTickGap={28}
            />
            <YAxis
              width={44}
              allowDecimals={false}
              tick={{ fill: "var(--color-soft)", fontSize: 12 }}
              tickLine={false}
              axisLine={false}
            />
            <Tooltip
              isAnimationActive={false}
              cursor={{ fill: "var(--color-shade)" }}
              contentStyle={{
                background: "var(--color-surface)",
                border: "1px solid var(--color-ink)",
                borderRadius: 3,
                padding: "6px 10px",
              }}
              formatter={(many, key) => [`${many}`, parts[Number(`${key}`.slice(4))] ?? ""]}
            />
            {shown.map(({ name, part }) => (
              <Bar
                key={name}
                dataKey={`part${part}`}
                stackId="all"
                fill={colourOf(part)}
                isAnimationActive={false}
              />
            ))}
          </BarChart>
        </ResponsiveContainer>
      </div>
      <PictureTable
        headings={["Day", "Opens", "Who", "Students"]}
        rows={bars.flatMap((bar) =>
          shown
            .filter(({ part }) => (bar.many[part] ?? 0) > 0)
            .map(({ name, part }) => [shortDay(bar.day), bar.time, name, bar.many[part] ?? 0]),
        )}
      />
    </figure>
  );
}
