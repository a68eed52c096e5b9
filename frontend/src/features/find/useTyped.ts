import { useEffect, useState } from "react";

/** What is typed shows at once; the search follows a moment after the last key. */
export function useTyped(value: string, onChange: (text: string) => void) {
  const [text, setText] = useState(value);
  const [seen, setSeen] = useState(value);
  // What was told and has not come back yet: on a slow machine one types on meanwhile.
  const [told, setTold] = useState<string[]>([]);
  if (value !== seen) {
    setSeen(value);
    const at = told.indexOf(value);
    setTold(at < 0 ? [] : told.slice(at + 1));
    // Else it was changed from elsewhere: the address, or a press on clear.
    if (at < 0) setText(value);
  }
  useEffect(() => {
    if (text === value) return;
    const timer = window.setTimeout(() => {
      setTold((before) => (before.includes(text) ? before : [...before, text]));
      onChange(text);
    }, 120);
    return () => window.clearTimeout(timer);
  }, [text, value, onChange]);
  return [text, setText] as const;
}
