/** A change of the cart on the page. */

export const changeId = (number: string) => `cart-change-${number}`;

/** Brings a change of the cart into sight, with the focus on it.
 *
 * @returns whether the cart is on the page
 */
export function seeChange(number: string): boolean {
  const found = document.getElementById(changeId(number));
  if (!found || found.offsetParent === null) return false;
  found.scrollIntoView({ block: "nearest" });
  found.focus({ preventScroll: true });
  return true;
}
