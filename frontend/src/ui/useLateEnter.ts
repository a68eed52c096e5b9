/** Enter in a field whose list is looked up while one types. */
import { type KeyboardEvent, useEffect, useRef, useState } from "react";

/**
 * Takes the first of a list at Enter, but never of one that belongs to other words: then it waits for
 * the one that is on its way. Whoever has gone into the list by the arrow keys takes what they are on.
 *
 * Takes it once for the same words: a second Enter may come before the page is drawn without them.
 *
 * @param words what is looked for
 * @param isCurrent whether the list shown belongs to the words in the field
 * @param takeFirst takes its first entry, if there is one
 */
export function useLateEnter(words: string, isCurrent: boolean, takeFirst: () => void) {
  const [isWaiting, setWaiting] = useState(false);
  const isInList = useRef(false);
  const take = useRef(takeFirst);
  take.current = takeFirst;
  const takenFor = useRef<string | null>(null);
  const takeOnce = useRef(() => {});
  takeOnce.current = () => {
    if (takenFor.current === words) return;
    takenFor.current = words;
    take.current();
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: other words may be taken again.
  useEffect(() => {
    takenFor.current = null;
  }, [words]);
  useEffect(() => {
    if (!isWaiting || !isCurrent) return;
    setWaiting(false);
    takeOnce.current();
  }, [isWaiting, isCurrent]);
  return {
    isWaiting,
    isInList,
    onKeyDownCapture: (event: KeyboardEvent) => {
      if (event.key === "ArrowDown" || event.key === "ArrowUp") isInList.current = true;
      if (event.key !== "Enter" || event.nativeEvent.isComposing) return;
      if (isInList.current && isCurrent) return;
      event.preventDefault();
      event.stopPropagation();
      if (isCurrent) takeOnce.current();
      else setWaiting(true);
    },
    /** To be called when something else is typed: what was meant then is no longer. */
    forget: () => {
      isInList.current = false;
      setWaiting(false);
    },
  };
}
