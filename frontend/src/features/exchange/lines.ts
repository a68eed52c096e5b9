import type { Schemas } from "../../api/client";

/** The last line that has come whole; null while there is none. */
export function lastLine(text: string): Schemas["FolderProgress"] | null {
  const whole = text.slice(0, text.lastIndexOf("\n"));
  return whole
    ? (parsed(whole.slice(whole.lastIndexOf("\n") + 1)) as Schemas["FolderProgress"] | null)
    : null;
}

/** What a text holds as JSON; null where it holds none. */
export function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
