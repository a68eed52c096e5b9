import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { PictureTable } from "./PictureTable";

type Part = {
  /** By what a row says how much of it there is. */
  key: string;
  name: string;
  fill: string;
};

type Props = {
  rows: ({ name: string } & Record<string, string | number>)[];
  /** What bars are stacked of, from below. */
  parts: Part[];
  /** Every bar is named, however narrow; otherwise as many as have room. */
  namesAll?: boolean;
  /** The same for who cannot see it. */
  table: { headings: string[]; rows: (string | number)[][] };
};

const SMALL = { fill: "var(--color-soft)", fontSize: 12 };
const SOME_NAMED = { minTickGap: 28, tick: SMALL };
const ALL_NAMED = {
  interval: 0,
  angle: -60,
  textAnchor: "end",
  height: 50,
  tick: { ...SMALL, fontSize: 11 },
} as const;

/** Stacked bars, and the same as a table. */
export function BarPicture({ rows, parts, namesAll = false, table }: Props) {
  const names = Object.fromEntries(parts.map(({ key, name }) => [key, name]));
  return (
    <figure className="mt-3">
      {parts.length > 1 && (
        <figcaption className="mb-2 flex flex-wrap gap-x-5 gap-y-1 text-[13px]">
          {parts.map(({ key, name, fill }) => (
            <span key={key} className="flex items-center gap-2">
              <span
                className="size-3 border border-soft forced-color-adjust-none"
                style={{ background: fill }}
                aria-hidden
              />
              {name}
            </span>
          ))}
        </figcaption>
      )}
      <div className="h-[220px] border border-hair bg-surface pt-3 pr-3" aria-hidden>
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={rows} barCategoryGap={namesAll ? "10%" : 1} accessibilityLayer={false}>
            <CartesianGrid vertical={false} stroke="var(--color-hair)" />
            <XAxis
              dataKey="name"
              tickLine={false}
              axisLine={{ stroke: "var(--color-ink)" }}
              {...(namesAll ? ALL_NAMED : SOME_NAMED)}
            />
            <YAxis
              width={44}
              allowDecimals={false}
              tick={SMALL}
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
              formatter={(many, key) => [`${many}`, names[`${key}`] ?? ""]}
            />
            {parts.map(({ key, fill }) => (
              <Bar key={key} dataKey={key} stackId="all" fill={fill} isAnimationActive={false} />
            ))}
          </BarChart>
        </ResponsiveContainer>
      </div>
      <PictureTable headings={table.headings} rows={table.rows} />
    </figure>
  );
}
