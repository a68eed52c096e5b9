/** What is typed after a press that opens a field, and before the field is there. */

/** So long a field may take to come, in milliseconds. */
const PATIENCE = 10_000;
/** Characters that are kept; no field takes more. */
const MOST_HELD = 200;

type Held = { id: string | null; text: string; isEntered: boolean };

let held: Held | null = null;
let ending = 0;

/**
 * Keeps what is typed from now on for the field that is about to come, and types it there when the
 * field gets the focus. Ends by Escape, Tab or a press elsewhere.
 *
 * @param id of the field; without it the first field that gets the focus
 */
export function holdKeys(id: string | null = null): void {
  drop();
  held = { id, text: "", isEntered: false };
  ending = window.setTimeout(drop, PATIENCE);
  window.addEventListener("keydown", hold, true);
  window.addEventListener("pointerdown", drop, true);
  window.addEventListener("focusin", giveSoon, true);
}

/** Whether a field is still awaited. */
export const areKeysHeld = () => held !== null;

function drop(): void {
  held = null;
  window.clearTimeout(ending);
  window.removeEventListener("keydown", hold, true);
  window.removeEventListener("pointerdown", drop, true);
  window.removeEventListener("focusin", giveSoon, true);
}

function hold(event: KeyboardEvent): void {
  if (!held || event.ctrlKey || event.metaKey || event.altKey || event.isComposing) return;
  if (event.key === "Escape" || event.key === "Tab") {
    drop();
    return;
  }
  if (event.key === "Enter") held.isEntered ||= !event.repeat;
  else if (event.key === "Backspace") held.text = held.text.slice(0, -1);
  else if (event.key.length !== 1) return;
  else if (!held.isEntered && held.text.length < MOST_HELD) held.text += event.key;
  event.preventDefault();
  event.stopPropagation();
}

function isAwaited(element: EventTarget | null): element is HTMLInputElement | HTMLTextAreaElement {
  const isField = element instanceof HTMLInputElement || element instanceof HTMLTextAreaElement;
  return isField && (held?.id ?? element.id) === element.id;
}

/** A field may get the focus while it is being drawn: it takes what is typed a moment later. */
function giveSoon(event: FocusEvent): void {
  if (isAwaited(event.target)) window.setTimeout(giveKeys, 0);
}

/** Types what was kept, if the field has the focus. */
export function giveKeys(): void {
  const field = document.activeElement;
  if (!held || !isAwaited(field)) return;
  const { text, isEntered } = held;
  drop();
  // As if typed: the only way in by which frameworks, undo and the place of the cursor all agree.
  if (text) document.execCommand("insertText", false, text);
  if (isEntered) window.setTimeout(() => enter(field), 0);
}

function enter(field: HTMLInputElement | HTMLTextAreaElement): void {
  const key = { key: "Enter", bubbles: true, cancelable: true };
  if (field.dispatchEvent(new KeyboardEvent("keydown", key))) field.form?.requestSubmit();
}
