import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Tick } from "../../../ui/Ticks";
import { credits } from "../../../ui/text";
import { SectionPicker } from "../../catalogue/section/SectionPicker";
import type { Chosen } from "../changes/useCartChanges";
import { choicesOf } from "../changes/verdict";
import { hasChoices, OptionsForm } from "./Options";

type Change = Schemas["CartChangeResponse"];
type Props = {
  change: Change;
  /** What is good to know of it. */
  notes: Schemas["FindingResponse"][];
  onChoose: (chosen: Chosen) => void;
};

/** What else there is to know of a change, and to choose for it. */
export function ChangeDetails({ change, notes, onChoose }: Props) {
  const { outcome, options } = change;
  const [addsNext, setAddsNext] = useState(false);
  const what = `${outcome.name} ${outcome.number}`;
  const about = [
    outcome.title,
    outcome.credits ? credits(outcome.credits) : "",
    choicesOf(outcome),
  ].filter(Boolean);
  const chosen = change.alternatives.map(({ numbers }) => numbers);
  return (
    <div className="mt-1.5 border-t border-hair pt-1.5">
      <p className="text-soft">{about.join(" · ")}</p>
      {notes.map(({ text }) => (
        <p key={text}>{text}</p>
      ))}
      {hasChoices(options) && (
        <OptionsForm key={change.version} options={options} onChoose={onChoose} />
      )}
      {change.may_wait && (
        <Tick
          className="mt-1 w-fit"
          checked={change.wait_if_full}
          onChange={(wait_if_full) => onChoose({ wait_if_full })}
        >
          else wait for a seat<span className="sr-only">: {what}</span>
        </Tick>
      )}
      {change.takes_next && !addsNext && (
        <Button look="link" className="min-h-[24px] py-1" onClick={() => setAddsNext(true)}>
          {chosen.length ? "Another choice" : "Next choice"}, where this one cannot be had
          <span className="sr-only">: {what}</span>
        </Button>
      )}
      {addsNext && (
        <SectionPicker
          number={change.original.number}
          legend="If that cannot be had, take"
          taken={[change.original.number, ...chosen.map(([first]) => first ?? "")]}
          inFind={{ is: "next", change: change.id }}
          onPick={(number) => {
            onChoose({ alternatives: [...chosen, [number]] });
            setAddsNext(false);
          }}
          onClose={() => setAddsNext(false)}
        />
      )}
    </div>
  );
}
