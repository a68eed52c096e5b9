import { lazy, type ReactNode, Suspense, useRef, useState } from "react";
import { holdKeys } from "./heldKeys";

const load = () => import("./DropdownContent");
const DropdownContent = lazy(async () => ({ default: (await load()).DropdownContent }));

type Props = {
  /** What the button shows. */
  face: ReactNode;
  className: string;
  /** The button's name, where its face does not say it. */
  name?: string;
  /** The name of what opens. */
  title?: string;
  align: "start" | "end";
  /** Whether one types at once in what opens. */
  opensField?: boolean;
  /** Of what opens. */
  look: string;
  children: ReactNode;
};

/** A button with something that opens below it. The script for opening comes when it is near. */
export function Dropdown({
  face,
  className,
  name,
  title,
  align,
  opensField,
  look,
  children,
}: Props) {
  const button = useRef<HTMLButtonElement>(null);
  const [open, setOpen] = useState(false);
  return (
    <>
      <button
        ref={button}
        type="button"
        className={className}
        aria-label={name}
        aria-haspopup="dialog"
        aria-expanded={open}
        onPointerEnter={load}
        onFocus={load}
        onClick={() => {
          if (opensField && !open) holdKeys();
          setOpen(!open);
        }}
      >
        {face}
      </button>
      {open && (
        <Suspense>
          <DropdownContent
            anchor={button}
            title={title ?? name}
            align={align}
            look={look}
            onClose={() => setOpen(false)}
          >
            {children}
          </DropdownContent>
        </Suspense>
      )}
    </>
  );
}
