import { useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { Problem } from "../../api/problem";
import { useAnnounce } from "../../ui/announce";
import { NUMBER_FIELD } from "../../ui/fields";
import { ProblemNotice } from "../../ui/Notice";
import { pressable } from "../../ui/pressable";
import { counted } from "../../ui/text";
import type { useCartChanges } from "../changes/useCartChanges";

type Props = { add: ReturnType<typeof useCartChanges>["add"]; disabled: boolean };

/** Reference numbers, one or many, typed or pasted in any shape. */
export function NumberEntry({ add, disabled }: Props) {
  const id = useId();
  const announce = useAnnounce();
  const [text, setText] = useState("");
  const [reports, setReports] = useState<Schemas["ReportResponse"][]>([]);
  const many = new Set(text.match(/\d{5,}/g)).size;
  const submit = () =>
    add.mutate(
      { kind: "add", text },
      {
        onSuccess: (answer) => {
          const taken = answer.reports.filter((report) => report.taken).length;
          const left = answer.reports.filter((report) => !report.taken);
          setReports(left);
          // What may be a slip stays in the field, to be mended and not typed again.
          setText(left.flatMap((report) => (report.mend ? report.piece : [])).join(" "));
          announce(
            `${counted(taken, "section", "sections")} put into the cart, ${left.length} not taken.`,
          );
        },
      },
    );
  return (
    <>
      <form
        className="mt-2 flex rounded-sm border border-ink bg-white focus-within:outline-2 focus-within:outline-offset-2 focus-within:outline-pine"
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim()) submit();
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
          {...pressable(!text.trim() || add.isPending || disabled)}
        >
          {many > 1 ? `Add ${many}` : "Add"}
        </button>
      </form>
      <p id={id} className="sr-only">
        Type or paste one or many; whatever else stands between them does not matter.
      </p>
      {add.error instanceof Problem && add.error.status !== 401 && (
        <div className="mt-2">
          <ProblemNotice problem={add.error} />
        </div>
      )}
      {reports.length > 0 && (
        <div className="mt-2 border-l-4 border-l-ochre pl-3 text-[13px]">
          <ul className="max-h-40 space-y-1 overflow-auto">
            {reports.map((report) => (
              <li key={report.piece + report.text}>
                {report.piece && <b className="number font-bold">{report.piece}</b>} {report.text}
              </li>
            ))}
          </ul>
          <button type="button" className="link mt-1" onClick={() => setReports([])}>
            Clear these lines
          </button>
        </div>
      )}
    </>
  );
}
