import { Popover } from "radix-ui";
import type { ReactNode, RefObject } from "react";

type Props = {
  anchor: RefObject<HTMLButtonElement | null>;
  title: string | undefined;
  align: "start" | "end";
  look: string;
  onClose: () => void;
  children: ReactNode;
};

/** What opens below a button; see Dropdown. */
export function DropdownContent({ anchor, title, align, look, onClose, children }: Props) {
  return (
    <Popover.Root open onOpenChange={(open) => !open && onClose()}>
      <Popover.Anchor virtualRef={anchor as RefObject<HTMLButtonElement>} />
      <Popover.Portal>
        <Popover.Content
          align={align}
          sideOffset={7}
          collisionPadding={12}
          aria-label={title}
          className={`z-30 rounded-sm border border-ink bg-surface ${look}`}
          onInteractOutside={(event) => {
            // The button closes it by itself, and would open it again.
            if (anchor.current?.contains(event.target as Node)) event.preventDefault();
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            anchor.current?.focus();
          }}
        >
          {children}
          <Fade />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** At the lower edge of what scrolls: that there is more below. Not there once one is at the end. */
function Fade() {
  return <div aria-hidden className="more-below" />;
}
