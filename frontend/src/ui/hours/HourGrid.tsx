import type { CSSProperties, ReactNode } from "react";
import type { Placing } from "./lanes";

/** A column of the grid. */
export type Day = { key: string; name: string; over?: ReactNode };

type Props<P extends Placing> = {
  label: string;
  days: Day[];
  placed: P[];
  /** The first hour and the one after the last. */
  hours: [number, number];
  /** So many pixels an hour. */
  hour: number;
  /** So many pixels between a class and what is beside it. */
  gap: number;
  /** So many pixels above the first hour, which has its name there. */
  above?: number;
  className?: string;
  children: (item: P, style: CSSProperties) => ReactNode;
};

/** Days side by side with their hours from top to bottom, and each class where it belongs. */
export function HourGrid<P extends Placing>({
  label,
  days,
  placed,
  hours,
  hour,
  gap,
  above = 0,
  className,
  children,
}: Props<P>) {
  const [from, to] = hours;
  const columns = { gridTemplateColumns: `32px repeat(${days.length}, minmax(0, 1fr))` };
  const lines = `repeating-linear-gradient(to bottom, transparent 0 ${hour - 1}px, var(--color-hair) ${hour - 1}px ${hour}px)`;
  const styleOf = ({ start, end, lane, lanes }: Placing) => ({
    top: above + ((start - from * 60) / 60) * hour,
    height: ((end - start) / 60) * hour - 1,
    left: `calc(${(lane / lanes) * 100}% + ${gap}px)`,
    width: `calc(${100 / lanes}% - ${2 * gap}px)`,
  });
  return (
    <section aria-label={label} className={className}>
      <div className="grid py-1 text-[13px]" style={columns}>
        <span />
        {days.map(({ key, name }) => (
          <h2 key={key} className="truncate pl-2 font-sans text-[13px] font-normal">
            {name}
          </h2>
        ))}
      </div>
      <div className="grid border-t border-ink" style={columns}>
        <div className="relative" style={{ height: above + (to - from) * hour }} aria-hidden>
          {Array.from({ length: to - from }, (_, n) => from + n)
            .slice(above ? 0 : 1)
            .map((at) => (
              <span
                key={at}
                className="absolute right-1.5 -translate-y-1/2 text-[11.5px] text-soft"
                style={{ top: above + (at - from) * hour }}
              >
                {at}
              </span>
            ))}
        </div>
        {days.map(({ key, name, over }, index) => (
          <ol
            key={key}
            aria-label={name}
            className="relative border-l border-hair"
            style={{ backgroundImage: lines, backgroundPositionY: above }}
          >
            {over}
            {placed.filter(({ day }) => day === index).map((item) => children(item, styleOf(item)))}
          </ol>
        ))}
      </div>
    </section>
  );
}
