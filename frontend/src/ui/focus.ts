import { areKeysHeld, giveKeys, holdKeys } from "./heldKeys";

/** Give the focus to a field as soon as it is there to be seen, and what is typed until then. */
export function focusSoon(id: string): void {
  holdKeys(id);
  const attempt = () => {
    if (!areKeysHeld()) return;
    const element = document.getElementById(id);
    if (element && element.offsetParent !== null) {
      element.focus();
      giveKeys();
    } else requestAnimationFrame(attempt);
  };
  requestAnimationFrame(attempt);
}
