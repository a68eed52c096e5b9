import { X } from "lucide-react";
import { type ReactNode, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { credits } from "../../ui/text";
import { ChangeTitle } from "../changes/ChangeTitle";
import { Findings } from "../changes/Findings";
import { RequisiteTree } from "../changes/RequisiteTree";
import { EDGES, WORDS } from "../changes/tones";
import type { Chosen } from "../changes/useCartChanges";
import { choicesOf, consequences, ownFindings, verdictOf } from "../changes/verdict";
import { SeatsNow } from "../section/SeatMeter";
import { usePageSubject } from "../subject/usePageSubject";
import { SMALL_BUTTON } from "./ChangeGroup";
import { NextChoices } from "./NextChoices";
import { hasChoices, OptionsForm } from "./Options";

type Change = Schemas["CartChangeResponse"];
type Props = {
  change: Change;
  /** " at 09:00" before the window, else nothing. */
  when: string;
  mode: Schemas["CartResponse"]["mode"];
  /** What it is moved by, where it can be moved alone. */
  handle: ReactNode;
  onRemove: () => void;
  onAct: (change: Change, action: Schemas["ActionResponse"]) => void;
  onChoose: (chosen: Chosen) => void;
  isInCart: (number: string) => boolean;
};

/** The choice that was not made, by the one that was. */
const OTHERWISE = { each: "With all or nothing", all: "Each by itself" } as const;

const OTHERWISE_WORDS = {
  accepted: "it would go through",
  waiting: "it would wait",
  refused: "stopped",
} as const;

export function ChangeItem({
  change,
  when,
  mode,
  handle,
  onRemove,
  onAct,
  onChoose,
  isInCart,
}: Props) {
  const { outcome, options } = change;
  const { term } = usePageSubject();
  const [showOptions, setShowOptions] = useState(false);
  const [addsNext, setAddsNext] = useState(false);
  const item = useRef<HTMLElement>(null);
  const { word, tone } = verdictOf(outcome, when);
  const what = `${outcome.name} ${outcome.number}`;
  const act = (action: Schemas["ActionResponse"]) => {
    if (action.target !== "consent" && action.target !== "options") return onAct(change, action);
    setShowOptions(true);
    const wanted = action.target === "consent" ? "[data-consent]" : "form select, form input";
    window.setTimeout(() => item.current?.querySelector<HTMLElement>(wanted)?.focus(), 0);
  };
  const facts = [
    change.times,
    outcome.credits ? credits(outcome.credits) : "",
    choicesOf(outcome),
    ...consequences(outcome, change.refund_through),
  ].filter(Boolean);
  return (
    <article
      ref={item}
      className={`border-b border-l-4 border-hair bg-surface py-2.5 pr-3 pl-3.5 ${EDGES[tone]}`}
      data-testid={`change-${outcome.number}`}
    >
      <div className="flex items-start gap-1">
        <h3 className="flex-1 font-sans text-[14px] font-semibold">
          <ChangeTitle outcome={outcome} givesUp={change.in_exchange_name} />
        </h3>
        {handle}
        <button
          type="button"
          className={SMALL_BUTTON}
          aria-label={`Take ${what} out of the cart`}
          onClick={onRemove}
        >
          <X size={15} aria-hidden />
        </button>
      </div>
      <p className="pr-2 text-small text-soft">
        {outcome.title}
        {facts.map((fact) => (
          <span key={fact}>
            {" "}
            · <span className="whitespace-nowrap">{fact}</span>
          </span>
        ))}
        {change.seats && (
          <>
            {" "}
            · <SeatsNow term={term} number={outcome.number} seats={change.seats} />
          </>
        )}
      </p>
      <div className="mt-1 pr-2 text-[13px] leading-snug">
        <b className={`font-semibold ${WORDS[tone]}`}>{word}</b>{" "}
        <Findings
          findings={ownFindings(outcome)}
          instead={change.instead}
          onAct={act}
          isInCart={isInCart}
        />
        {change.otherwise && (
          <p className="text-small text-soft">
            {OTHERWISE[mode]}: {OTHERWISE_WORDS[change.otherwise]}.
          </p>
        )}
        <NextChoices
          change={change}
          open={addsNext}
          onNext={(alternatives) => onChoose({ alternatives })}
          onClose={() => setAddsNext(false)}
        />
        {change.requisites && <RequisiteTree evidence={change.requisites} />}
        <div className="mt-0.5 -ml-1.5 flex flex-wrap text-small">
          {hasChoices(options) && (
            <Button
              look="quiet"
              aria-expanded={showOptions}
              onClick={() => setShowOptions(!showOptions)}
            >
              Options<span className="sr-only"> of {what}</span>
            </Button>
          )}
          {change.takes_next && (
            <Button
              look="quiet"
              aria-expanded={addsNext}
              title="A section to take where this one cannot be had"
              onClick={() => setAddsNext(!addsNext)}
            >
              {change.alternatives.length ? "Another choice" : "Next choice"}
              <span className="sr-only"> for {what}</span>
            </Button>
          )}
          {change.may_wait && (
            <label className="flex min-h-[28px] cursor-pointer items-center gap-2 px-3 text-soft hover:text-ink">
              <input
                type="checkbox"
                className="size-4 accent-pine"
                checked={change.wait_if_full}
                onChange={(event) => onChoose({ wait_if_full: event.target.checked })}
              />
              else wait for a seat<span className="sr-only">: {what}</span>
            </label>
          )}
        </div>
        {showOptions && hasChoices(options) && (
          <OptionsForm key={change.version} options={options} onChoose={onChoose} />
        )}
      </div>
    </article>
  );
}
