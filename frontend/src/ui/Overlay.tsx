import { Dialog } from "radix-ui";
import { type ReactNode, useState } from "react";
import { type Around, aroundOf, focusedLately, nearestLeft, sameAgain } from "./keepFocus";

type Props = {
  open: boolean;
  onClose?: (() => void) | undefined;
  /** Its name, where it shows no title of its own. */
  label?: string;
  /** How what lies behind it, and it, are placed. */
  behind: string;
  look: string;
  /** Whether it leaves the focus alone once it is closed: what was opened from it takes it. */
  leavesFocus?: () => boolean;
  children: ReactNode;
};

/** What lies over the page and has the keyboard to itself until it is closed. Without `onClose` it stays
 * until its own matter is settled. */
export function Overlay({ open, onClose, label, behind, look, leavesFocus, children }: Props) {
  const [opened, setOpened] = useState<{ open: boolean; by: Element | null; around: Around[] }>({
    open: false,
    by: null,
    around: [],
  });
  // Looked at while it is opened: a moment later the focus is in it.
  if (opened.open !== open) {
    const by = open ? focusedLately() : opened.by;
    setOpened({ open, by, around: open && by ? aroundOf(by) : opened.around });
  }
  /** Back to where it was opened from; if that is gone, to what stands in its place. */
  const goBack = (event: Event) => {
    event.preventDefault();
    if (leavesFocus?.()) return;
    const before = opened.by;
    const isThere = before instanceof HTMLElement && before.isConnected && before !== document.body;
    (isThere ? before : (sameAgain(before) ?? nearestLeft(opened.around)))?.focus();
  };
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose?.()}>
      <Dialog.Portal>
        <Dialog.Overlay className={`fixed inset-0 z-40 ${behind}`} />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed z-50 outline-none ${look}`}
          onCloseAutoFocus={goBack}
        >
          {label && <Dialog.Title className="sr-only">{label}</Dialog.Title>}
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

export const OverlayTitle = Dialog.Title;
export const OverlayClose = Dialog.Close;
