import type { MouseEvent, MouseEventHandler } from "react";

/**
 * Makes what is pressed wait, or not be there to press yet, and leaves the focus on it. What is disabled
 * cannot hold the focus: where its line moves when the answer comes, whoever works with the keyboard would
 * be at the top of the page again.
 */
export function pressable<E extends Element>(
  disabled: boolean | undefined,
  onClick?: MouseEventHandler<E>,
) {
  if (!disabled) return { onClick };
  return { "aria-disabled": true, onClick: (event: MouseEvent<E>) => event.preventDefault() };
}
