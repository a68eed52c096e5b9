import { X } from "lucide-react";
import type { ReactNode } from "react";
import { Overlay, OverlayClose, OverlayTitle } from "./Overlay";

type Props = {
  open: boolean;
  onClose?: () => void;
  title: string;
  children: ReactNode;
};

/** A sheet over the page. Without `onClose` it stays until its own matter is settled. */
export function Sheet({ open, onClose, title, children }: Props) {
  return (
    <Overlay
      open={open}
      onClose={onClose}
      behind="bg-ink/30"
      look="top-1/2 left-1/2 max-h-[90dvh] w-[min(440px,calc(100vw-24px))] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-sm border border-ink bg-surface p-6"
    >
      <div className="mb-4 flex items-baseline justify-between gap-4">
        <OverlayTitle className="text-[22px]">{title}</OverlayTitle>
        {onClose && (
          <OverlayClose className="text-soft hover:text-ink" aria-label="Close">
            <X size={18} aria-hidden />
          </OverlayClose>
        )}
      </div>
      {children}
    </Overlay>
  );
}
