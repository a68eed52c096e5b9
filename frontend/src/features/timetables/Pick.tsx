type Props = {
  legend: string;
  values: (readonly [value: string, name: string])[];
  chosen: string[];
  single?: boolean;
  onChange: (chosen: string[]) => void;
};

/** A few values as buttons to press: one, or any of them. */
export function Pick({ legend, values, chosen, single = false, onChange }: Props) {
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{legend}</legend>
      <div className="flex flex-wrap gap-1.5">
        {values.map(([value, name]) => {
          const on = chosen.includes(value);
          const others = chosen.filter((other) => other !== value);
          return (
            <button
              key={value}
              type="button"
              aria-pressed={on}
              className={`min-h-[28px] rounded-sm border bg-surface px-2 hover:border-ink ${on ? "border-ink font-semibold shadow-[inset_0_0_0_1px_var(--color-ink)]" : "border-hair"}`}
              onClick={() => onChange(single ? [value] : on ? others : [...chosen, value])}
            >
              {name}
            </button>
          );
        })}
      </div>
    </fieldset>
  );
}
