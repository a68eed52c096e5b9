import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

type Props = {
  open: boolean;
  onClose?: () => void;
  title: string;
  children: ReactNode;
};

/** A sheet over the page. Without `onClose` it stays until its own matter is settled. */
export function Sheet({ open, onClose, title, children }: Props) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose?.()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/2 left-1/2 z-50 max-h-[90dvh] w-[min(440px,calc(100vw-24px))] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-sm border border-ink bg-surface p-6"
        >
          <div className="mb-4 flex items-baseline justify-between gap-4">
            <Dialog.Title className="text-[22px]">{title}</Dialog.Title>
            {onClose && (
              <Dialog.Close className="text-soft hover:text-ink" aria-label="Close">
                <X size={18} aria-hidden />
              </Dialog.Close>
            )}
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
