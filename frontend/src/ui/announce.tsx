/** Saying to a screen reader, politely, what has changed. */
import { createContext, type ReactNode, useCallback, useContext, useState } from "react";

const Announce = createContext<(text: string) => void>(() => {});

export function Announcements({ children }: { children: ReactNode }) {
  const [text, setText] = useState("");
  const announce = useCallback((next: string) => {
    // The same sentence twice is only read twice if the region was empty in between.
    setText("");
    window.setTimeout(() => setText(next), 50);
  }, []);
  return (
    <Announce.Provider value={announce}>
      {children}
      <div aria-live="polite" className="sr-only" data-testid="announcements">
        {text}
      </div>
    </Announce.Provider>
  );
}

export function useAnnounce(): (text: string) => void {
  return useContext(Announce);
}
