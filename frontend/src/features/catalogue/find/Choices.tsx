import { useId, useState } from "react";
import type { Schemas } from "../../../api/client";
import { INPUT } from "../../../ui/Field";

type Value = Schemas["CountResponse"];
type Props = {
  legend: string;
  values: Value[];
  chosen: string[];
  onChange: (chosen: string[]) => void;
  /** One only, or as many as one likes. */
  single?: boolean;
};

/** Values with the number of results beside each; many of them can be searched. */
export function Choices({ legend, values, chosen, onChange, single = false }: Props) {
  const id = useId();
  // A press shows at once; the address follows, and with it what was chosen.
  const key = chosen.join("\n");
  const [pressed, setPressed] = useState({ key, chosen });
  if (pressed.key !== key) setPressed({ key, chosen });
  const now = pressed.chosen;
  const [typed, setTyped] = useState("");
  const wanted = typed.trim().toLowerCase();
  const shown = values.filter(({ name }) => name.toLowerCase().includes(wanted));
  const toggle = (value: string) => {
    const others = single ? [] : now.filter((other) => other !== value);
    const next = now.includes(value) ? others : [...others, value];
    setPressed({ key, chosen: next });
    onChange(next);
  };
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{legend}</legend>
      {values.length > 12 && (
        <input
          className={`${INPUT} mb-2`}
          type="search"
          aria-label={`Search in ${legend.toLowerCase()}`}
          placeholder="Type to shorten the list"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
      )}
      {shown.map(({ value, name, sections }) => (
        <label
          key={value}
          htmlFor={`${id}-${value}`}
          className={`flex min-h-[28px] cursor-pointer items-center gap-2 rounded-sm px-1 hover:bg-shade ${sections || now.includes(value) ? "" : "text-soft"}`}
        >
          <input
            id={`${id}-${value}`}
            type="checkbox"
            className="size-4 accent-pine"
            checked={now.includes(value)}
            onChange={() => toggle(value)}
          />
          <span className="min-w-0 flex-1">{name}</span>
          <span className="text-small text-soft">
            {sections}
            <span className="sr-only"> sections</span>
          </span>
        </label>
      ))}
      {shown.length === 0 && <p className="text-soft">Nothing by that name.</p>}
    </fieldset>
  );
}
