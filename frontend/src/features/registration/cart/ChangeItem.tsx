import { Ellipsis, X } from "lucide-react";
import { type ReactNode, useId, useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import { counted } from "../../../ui/text";
import { SeatsNow } from "../../catalogue/section/SeatMeter";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { ChangeTitle } from "../changes/ChangeTitle";
import { Findings } from "../changes/Findings";
import { RequisiteTree } from "../changes/RequisiteTree";
import { changeId } from "../changes/seeChange";
import { EDGES, WORDS } from "../changes/tones";
import type { Chosen } from "../changes/useCartChanges";
import { consequences, ownFindings, verdictOf } from "../changes/verdict";
import { ChangeDetails } from "./ChangeDetails";
import { SMALL_BUTTON } from "./ChangeGroup";
import { ChosenAlternatives } from "./NextChoices";

type Change = Schemas["CartChangeResponse"];
type Props = {
  change: Change;
  /** " at 09:00" before the window, else nothing. */
  when: string;
  /** What it is moved by, where it can be moved alone. */
  handle: ReactNode;
  onRemove: () => void;
  onAct: (change: Change, action: Schemas["ActionResponse"]) => void;
  onChoose: (chosen: Chosen) => void;
};

/** One change: what it does, its verdict, and when it meets. What can be chosen for it opens on demand. */
export function ChangeItem({ change, when, handle, onRemove, onAct, onChoose }: Props) {
  const { outcome } = change;
  const { term } = usePageSubject();
  const id = useId();
  const [isOpen, setIsOpen] = useState(false);
  const item = useRef<HTMLElement>(null);
  const { word, tone } = verdictOf(outcome, when);
  const what = `${outcome.name} ${outcome.number}`;
  const act = (action: Schemas["ActionResponse"]) => {
    if (action.target !== "consent" && action.target !== "options") return onAct(change, action);
    setIsOpen(true);
    const wanted =
      action.target === "consent" ? "[data-permission-code]" : "form select, form input";
    window.setTimeout(() => item.current?.querySelector<HTMLElement>(wanted)?.focus(), 0);
  };
  const findings = ownFindings(outcome);
  const told = findings.filter(({ severity }) => severity !== "note" || tone !== "pine");
  const notes = findings.filter((finding) => !told.includes(finding));
  const facts = [change.times, ...consequences(outcome, change.refund_through)].filter(Boolean);
  return (
    <article
      ref={item}
      className={`border-b border-l-4 border-hair bg-surface py-2 pr-2 pl-3.5 ${EDGES[tone]}`}
      data-testid={`change-${outcome.number}`}
      id={changeId(outcome.number)}
      tabIndex={-1}
    >
      <div className="flex items-start">
        <h3 className="min-w-0 flex-1 py-0.5 font-sans text-[14px] leading-snug font-semibold">
          <ChangeTitle outcome={outcome} givesUp={change.in_exchange_name} />
        </h3>
        {handle}
        <button
          type="button"
          className={SMALL_BUTTON}
          aria-label={`More about ${what}`}
          aria-expanded={isOpen}
          aria-controls={id}
          onClick={() => setIsOpen(!isOpen)}
        >
          <Ellipsis size={16} aria-hidden />
        </button>
        <button
          type="button"
          className={SMALL_BUTTON}
          aria-label={`Take ${what} out of the cart`}
          onClick={onRemove}
        >
          <X size={16} aria-hidden />
        </button>
      </div>
      <div className="pr-2 text-[13px] leading-snug">
        <b className={`font-semibold ${WORDS[tone]}`}>{word}</b>{" "}
        {told.length + change.instead.length > 0 && (
          <Findings findings={told} instead={change.instead} onAct={act} />
        )}
        <span className="text-soft">
          {facts.join(", ")}
          {change.seats && (
            <>
              {facts.length > 0 && ", "}
              <SeatsNow term={term} number={outcome.number} seats={change.seats} />
            </>
          )}
          {notes.length > 0 && !isOpen && (
            <>
              {" · "}
              <button type="button" className="link" onClick={() => setIsOpen(true)}>
                {counted(notes.length, "note", "notes")}
              </button>
            </>
          )}
        </span>
        {change.requisites && <RequisiteTree evidence={change.requisites} />}
      </div>
      <ChosenAlternatives change={change} onNext={(alternatives) => onChoose({ alternatives })} />
      <div id={id} className="pr-2 text-[13px] leading-snug">
        {isOpen && <ChangeDetails change={change} notes={notes} onChoose={onChoose} />}
      </div>
    </article>
  );
}
