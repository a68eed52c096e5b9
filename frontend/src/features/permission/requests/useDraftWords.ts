/** Words that are not sent yet: a reload or a wrong press does not lose them. */
import { useState } from "react";

export function useDraftWords(about: string) {
  const slot = `gremba.words.${about}`;
  const [words, setWords] = useState(() => sessionStorage.getItem(slot) ?? "");
  const keep = (typed: string) => {
    setWords(typed);
    sessionStorage.setItem(slot, typed);
  };
  const forget = () => {
    setWords("");
    sessionStorage.removeItem(slot);
  };
  return [words, keep, forget] as const;
}
