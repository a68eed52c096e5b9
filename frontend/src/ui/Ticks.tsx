import type { ReactNode } from "react";

type TickProps = {
  checked: boolean;
  onChange: (checked: boolean) => void;
  /** How it stands among what is around it. */
  className?: string;
  children: ReactNode;
};

/** One thing to tick, with its words. */
export function Tick({ checked, onChange, className = "", children }: TickProps) {
  return (
    <label className={`flex min-h-[28px] cursor-pointer items-center gap-2 ${className}`}>
      <input
        type="checkbox"
        className="size-4 shrink-0 accent-pine"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      <span>{children}</span>
    </label>
  );
}

type TicksProps<Value extends string> = {
  /** What can be ticked and its words, in the order shown. */
  among: readonly (readonly [Value, string])[];
  chosen: readonly Value[];
  /** Called with what is ticked, in the order shown. */
  onChange: (chosen: Value[]) => void;
  className?: string;
};

/** Any of a few things to tick; a fieldset around them says of what. */
export function Ticks<Value extends string>(props: TicksProps<Value>) {
  const { among, chosen, onChange, className = "flex flex-wrap gap-x-5" } = props;
  const values = among.map(([value]) => value);
  return (
    <div className={className}>
      {among.map(([value, words]) => (
        <Tick
          key={value}
          checked={chosen.includes(value)}
          onChange={() =>
            onChange(values.filter((one) => chosen.includes(one) !== (one === value)))
          }
        >
          {words}
        </Tick>
      ))}
    </div>
  );
}
