import { useEffect, useId, useState } from "react";
import { INPUT } from "./Field";

type Props = {
  label: string;
  placeholder: string;
  /** What stands in it at first. */
  initially?: string;
  onSearch: (text: string) => void;
};

/** A field whose text is looked for a moment after the last key. */
export function SearchField({ label, placeholder, initially = "", onSearch }: Props) {
  const id = useId();
  const [text, setText] = useState(initially);
  useEffect(() => {
    const timer = window.setTimeout(() => onSearch(text.trim()), 200);
    return () => window.clearTimeout(timer);
  }, [text, onSearch]);
  return (
    <div className="max-w-sm">
      <label htmlFor={id} className="sr-only">
        {label}
      </label>
      <input
        id={id}
        className={INPUT}
        type="search"
        placeholder={placeholder}
        autoComplete="off"
        maxLength={100}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
    </div>
  );
}
