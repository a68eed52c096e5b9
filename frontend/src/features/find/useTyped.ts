import { useEffect, useState } from "react";

/** What is typed shows at once; the search follows a moment after the last key. */
export function useTyped(value: string, onChange: (text: string) => void) {
  const [text, setText] = useState(value);
  const [sent, setSent] = useState(value);
  if (value !== sent && value !== text) {
    // It was changed from elsewhere: the address, or a press on clear.
    setText(value);
    setSent(value);
  }
  useEffect(() => {
    if (text === value) return;
    const timer = window.setTimeout(() => {
      setSent(text);
      onChange(text);
    }, 120);
    return () => window.clearTimeout(timer);
  }, [text, value, onChange]);
  return [text, setText] as const;
}
