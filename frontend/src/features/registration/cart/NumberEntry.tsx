import { lazy, Suspense, useId } from "react";
import { useAnnounce } from "../../../ui/announce";
import { NUMBER_FIELD } from "../../../ui/fields";
import { ProblemNotice } from "../../../ui/Notice";
import { pressable } from "../../../ui/pressable";
import { counted } from "../../../ui/text";
import type { useCartChanges } from "../changes/useCartChanges";
import { useNumberQueue } from "./useNumberQueue";

const NotTaken = lazy(async () => ({ default: (await import("./NotTaken")).NotTaken }));

type Props = { enter: ReturnType<typeof useCartChanges>["enter"]; disabled: boolean };

/** Reference numbers, one or many, typed or pasted in any shape. */
export function NumberEntry({ enter, disabled }: Props) {
  const id = useId();
  const announce = useAnnounce();
  const queue = useNumberQueue((taken, left) =>
    announce(`${counted(taken, "section", "sections")} put into the cart, ${left} not taken.`),
  );
  const { text, setText } = queue;
  const many = new Set(text.match(/\d{5,}/g)).size;
  return (
    <>
      <form
        className="mt-2 flex rounded-sm border border-ink bg-white focus-within:outline-2 focus-within:outline-offset-2 focus-within:outline-pine"
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim() && !disabled) queue.submit(enter);
        }}
      >
        <input
          id={NUMBER_FIELD}
          aria-label="Reference numbers"
          aria-describedby={id}
          className="number min-w-0 flex-1 bg-transparent px-2.5 py-2 text-[13px] outline-none placeholder:text-soft"
          placeholder="Reference numbers"
          autoComplete="off"
          inputMode="text"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onPaste={(event) => {
            // Lines must not run together: an input would join them without a space.
            const pasted = event.clipboardData.getData("text");
            if (!/[\r\n\t]/.test(pasted)) return;
            event.preventDefault();
            const { selectionStart, selectionEnd } = event.currentTarget;
            const before = text.slice(0, selectionStart ?? text.length);
            const after = text.slice(selectionEnd ?? text.length);
            setText(before + pasted.replace(/[\r\n\t]+/g, " ") + after);
          }}
        />
        <button
          type="submit"
          className="rounded-r-sm border-l border-hair px-3 font-semibold text-pine hover:bg-shade aria-disabled:text-soft"
          {...pressable(!text.trim() || disabled)}
        >
          {many > 1 ? `Add ${many}` : "Add"}
        </button>
      </form>
      <p id={id} className="sr-only">
        Type or paste one or many; whatever else stands between them does not matter.
      </p>
      {queue.waiting.length > 0 && (
        <p className="mt-1.5 truncate text-[13px] text-soft" data-testid="numbers-waiting">
          Adding <span className="number">{queue.waiting.join(", ")}</span> …
        </p>
      )}
      {queue.problem && queue.problem.status !== 401 && (
        <div className="mt-2">
          <ProblemNotice problem={queue.problem} />
        </div>
      )}
      {queue.reports.length > 0 && (
        <Suspense>
          <NotTaken reports={queue.reports} onClear={queue.clear} />
        </Suspense>
      )}
    </>
  );
}
