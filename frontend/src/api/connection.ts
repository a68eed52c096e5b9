/** Whether the server has been answering, for the line at the top of the page. */
import { useSyncExternalStore } from "react";

type State = "well" | "lost";

let state: State = "well";
const listeners = new Set<() => void>();

function set(next: State): void {
  if (next === state) return;
  state = next;
  for (const listener of listeners) listener();
}

export const connection = {
  lost: () => set("lost"),
  well: () => set("well"),
};

// A browser that knows itself to be offline need not try first.
window.addEventListener("offline", connection.lost);

/** Calls back when the server answers again after it had not. */
export function whenMended(callback: () => void): void {
  listeners.add(() => state === "well" && callback());
}

export function useConnection(): State {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => state,
  );
}
