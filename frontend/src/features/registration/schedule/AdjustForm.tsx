import { type FormEvent, useId, useState } from "react";
import { Button } from "../../../ui/Button";
import { shortDay } from "../../../ui/text";
import { CreditsField, GradingField } from "../changes/choices";
import type { Chosen } from "../changes/useCartChanges";
import type { Section } from "./layout";

type Props = { section: Section; onAdjust: (chosen: Chosen) => void };

/** Another grading basis, or other credits, for a section held. */
export function AdjustForm({ section, onAdjust }: Props) {
  const id = useId();
  const varies = section.credits_least < section.credits_most;
  const [grading, setGrading] = useState({
    name: section.grading,
    earns_credits: section.earns_credits,
  });
  const [credits, setCredits] = useState(String(section.credits || section.credits_least));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const chosen = varies && grading.earns_credits ? Number(credits) : null;
    onAdjust({ grading: grading.name, credits: chosen });
  };
  const isSame =
    grading.name === section.grading && (!varies || Number(credits) === section.credits);
  return (
    <form
      className="order-last col-span-full flex flex-wrap items-end gap-3 bg-shade px-3 py-2.5 text-[13px]"
      onSubmit={submit}
    >
      {section.gradings.length > 1 && (
        <div className="w-44">
          <GradingField
            id={`${id}-grading`}
            gradings={section.gradings}
            value={grading.name}
            onChange={setGrading}
          />
        </div>
      )}
      {varies && grading.earns_credits && (
        <div className="w-32">
          <CreditsField
            id={`${id}-credits`}
            least={section.credits_least}
            most={section.credits_most}
            value={credits}
            onChange={setCredits}
          />
        </div>
      )}
      <Button type="submit" disabled={isSame}>
        Put it into the cart
      </Button>
      <p className="basis-full text-soft">
        Possible until {shortDay(section.adjust_by)}. An audit earns no credits and counts neither
        for the limit nor for full time.
      </p>
    </form>
  );
}
