/** So long an element that is to be focused may take to appear. */
const PATIENCE = 3_000;

/** Give the focus to an element as soon as it is there to be seen. */
export function focusSoon(id: string): void {
  const until = performance.now() + PATIENCE;
  const attempt = () => {
    const element = document.getElementById(id);
    if (element && element.offsetParent !== null) element.focus();
    else if (performance.now() < until) requestAnimationFrame(attempt);
  };
  requestAnimationFrame(attempt);
}
