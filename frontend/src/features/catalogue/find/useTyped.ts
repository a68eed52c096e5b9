import { useEffect, useState } from "react";

/** What became of what was told, now that the value is another. On a slow machine it comes back late, when
 * one has typed on: that is no reason to alter what stands in the field. */
export function comeBack(told: string[], value: string): { told: string[]; isOwn: boolean } {
  const at = told.indexOf(value);
  return { told: at < 0 ? [] : told.slice(at + 1), isOwn: at >= 0 };
}

/** What is typed shows at once; the search follows a moment after the last key. */
export function useTyped(value: string, onChange: (text: string) => void) {
  const [text, setText] = useState(value);
  const [seen, setSeen] = useState(value);
  const [told, setTold] = useState<string[]>([]);
  if (value !== seen) {
    const back = comeBack(told, value);
    setSeen(value);
    setTold(back.told);
    // Else it was changed from elsewhere: the address, or a press on clear.
    if (!back.isOwn) setText(value);
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
