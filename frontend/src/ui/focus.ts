/** So long an element that is to be focused may take to appear. */
const PATIENCE = 3_000;

let awaited = "";

/** Whether an element is still to get the focus: what is typed meanwhile is meant for it. */
export const isFocusAwaited = () => awaited !== "";

/** Give the focus to an element as soon as it is there to be seen. */
export function focusSoon(id: string): void {
  awaited = id;
  const until = performance.now() + PATIENCE;
  const attempt = () => {
    const element = document.getElementById(id);
    if (element && element.offsetParent !== null) element.focus();
    else if (performance.now() < until) {
      requestAnimationFrame(attempt);
      return;
    }
    awaited = "";
  };
  requestAnimationFrame(attempt);
}
