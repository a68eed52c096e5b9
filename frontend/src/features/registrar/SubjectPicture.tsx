import { Bar, BarChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import type { SubjectSeats } from "./bySubject";
import { PictureTable } from "./PictureTable";

const NAMES = { taken: "taken", left: "left" };

/** Seats taken and left by subject as bars, and the same as a table for who cannot see them. */
export function SubjectPicture({ subjects }: { subjects: SubjectSeats[] }) {
  return (
    <figure className="mt-3">
      <figcaption className="mb-2 flex gap-x-5 text-[13px]">
        <span className="flex items-center gap-2">
          <span className="size-3 bg-pine forced-color-adjust-none" aria-hidden />
          taken
        </span>
        <span className="flex items-center gap-2">
          <span
            className="size-3 border border-soft bg-hair forced-color-adjust-none"
            aria-hidden
          />
          left
        </span>
      </figcaption>
      <div className="h-[230px] border border-hair bg-surface pt-3 pr-3" aria-hidden>
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={subjects} accessibilityLayer={false}>
            <CartesianGrid vertical={false} stroke="var(--color-hair)" />
            <XAxis
              dataKey="subject"
              interval={0}
              angle={-60}
              textAnchor="end"
              height={50}
              tick={{ fill: "var(--color-soft)", fontSize: 11 }}
              tickLine={false}
              axisLine={{ stroke: "var(--color-ink)" }}
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
              formatter={(many, key) => [`${many}`, NAMES[key as keyof typeof NAMES]]}
            />
            <Bar dataKey="taken" stackId="all" fill="var(--color-pine)" isAnimationActive={false} />
            <Bar dataKey="left" stackId="all" fill="var(--color-hair)" isAnimationActive={false} />
          </BarChart>
        </ResponsiveContainer>
      </div>
      <PictureTable
        headings={["Subject", "Taken", "Left"]}
        rows={subjects.map(({ subject, taken, left }) => [subject, taken, left])}
      />
    </figure>
  );
}
