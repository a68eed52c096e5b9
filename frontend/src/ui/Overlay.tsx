import { Dialog } from "radix-ui";
import { type ReactNode, useRef } from "react";

type Props = {
  open: boolean;
  onClose?: (() => void) | undefined;
  /** Its name, where it shows no title of its own. */
  label?: string;
  /** How what lies behind it, and it, are placed. */
  behind: string;
  look: string;
  /** Closed, it leaves the focus alone: what is opened from it takes it. */
  leavesFocus?: boolean;
  children: ReactNode;
};

/** What lies over the page and has the keyboard to itself until it is closed. Without `onClose` it stays
 * until its own matter is settled. */
export function Overlay({ open, onClose, label, behind, look, leavesFocus, children }: Props) {
  const opener = useRef<Element | null>(null);
  /** Back to where it was opened from; if that is gone, to the page itself. */
  const goBack = (event: Event) => {
    event.preventDefault();
    if (leavesFocus) return;
    const before = opener.current;
    const isThere = before instanceof HTMLElement && before.isConnected && before !== document.body;
    (isThere ? before : document.getElementById("main"))?.focus();
  };
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose?.()}>
      <Dialog.Portal>
        <Dialog.Overlay className={`fixed inset-0 z-40 ${behind}`} />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed z-50 outline-none ${look}`}
          onOpenAutoFocus={() => {
            opener.current = document.activeElement;
          }}
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
