/**
 * Where the focus goes when what had it goes away: to what stands in its place now, never to nowhere.
 *
 * What was pressed is often gone after it has worked: a change taken out of the cart, a button that has
 * become another one. A browser then leaves the focus at the page as a whole, and who works by keyboard
 * begins again at the top.
 */

const CONTAINERS =
  "li, form, fieldset, article, section, ul, ol, dialog, [role=dialog], aside, main, header, nav";
const FOCUSABLE =
  "a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), summary, [tabindex='0']";

/** A part of the page around what had the focus, and how many could have had it before it in there. */
export type Around = { container: Element; index: number };

function visible(element: HTMLElement): boolean {
  return element.offsetParent !== null || element.getClientRects().length > 0;
}

export function focusablesIn(container: Element): HTMLElement[] {
  return [...container.querySelectorAll<HTMLElement>(FOCUSABLE)].filter(visible);
}

/** What stands around an element, from the inside out. */
export function aroundOf(element: Element): Around[] {
  const found: Around[] = [];
  let container = element.parentElement?.closest(CONTAINERS) ?? null;
  while (container) {
    found.push({ container, index: focusablesIn(container).indexOf(element as HTMLElement) });
    container = container.parentElement?.closest(CONTAINERS) ?? null;
  }
  return found;
}

/** What is to have the focus where `around` stood: the nearest that is still there. */
export function nearestLeft(around: Around[]): HTMLElement | null {
  for (const { container, index } of around) {
    if (!container.isConnected) continue;
    const left = focusablesIn(container);
    const next = left[Math.min(Math.max(index, 0), left.length - 1)];
    if (next) return next;
  }
  return document.getElementById("main");
}

/** A link that was drawn anew, by where it leads. */
export function sameAgain(element: Element | null): HTMLElement | null {
  const href = element instanceof HTMLAnchorElement && element.getAttribute("href");
  return href ? document.querySelector<HTMLElement>(`main a[href="${CSS.escape(href)}"]`) : null;
}

let last: HTMLElement | null = null;

/** What has the focus; or had it last, where it has just been drawn anew. */
export function focusedLately(): Element | null {
  const active = document.activeElement;
  return active && active !== document.body ? active : last;
}

/** Watch over the focus as long as the page is there. */
export function keepFocus(): void {
  let around: Around[] = [];
  let waiting = 0;
  const look = () => {
    waiting = 0;
    const active = document.activeElement;
    if (!last || (active && active !== document.body)) return;
    if (last.isConnected) {
      // Disabled while something is under way: it has the focus again afterwards.
      if (!last.matches(":disabled") && visible(last)) last.focus();
      else if (!last.matches(":disabled")) nearestLeft(around)?.focus();
      return;
    }
    (sameAgain(last) ?? nearestLeft(around))?.focus();
  };
  document.addEventListener("focusin", ({ target }) => {
    if (!(target instanceof HTMLElement) || target === document.body) return;
    last = target;
    around = aroundOf(target);
  });
  document.addEventListener("pointerdown", ({ target }) => {
    // Whoever presses beside everything means to have the focus nowhere.
    if (!(target instanceof Element) || !target.closest(`${FOCUSABLE}, label`)) last = null;
  });
  new MutationObserver(() => {
    // A moment later: what comes in its place may focus itself.
    if (last && !waiting) waiting = window.setTimeout(look, 60);
  }).observe(document.body, {
    childList: true,
    subtree: true,
    attributes: true,
    attributeFilter: ["disabled", "class", "hidden"],
  });
}
