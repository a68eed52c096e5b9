import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";
import { shortDay } from "../../ui/text";
import type { Section } from "./layout";

type Props = { section: Section; onAdjust: (options: Schemas["Options"]) => void };

/** Whether grading or credits can still be chosen. */
export function canAdjust(section: Section, today: string): boolean {
  const choices = section.gradings.length > 1 || section.credits_least < section.credits_most;
  return choices && today <= section.adjust_by;
}

/** Another grading basis, or other credits, for a section held. */
export function AdjustForm({ section, onAdjust }: Props) {
  const id = useId();
  const varies = section.credits_least < section.credits_most;
  const [grading, setGrading] = useState(section.grading);
  const [credits, setCredits] = useState(String(section.credits || section.credits_least));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const chosen = varies && grading !== "audit" ? Number(credits) : null;
    onAdjust({ grading, credits: chosen, consent: "" });
  };
  const isSame = grading === section.grading && (!varies || Number(credits) === section.credits);
  return (
    <form
      className="order-last col-span-full flex flex-wrap items-end gap-3 bg-shade px-3 py-2.5 text-[13px]"
      onSubmit={submit}
    >
      {section.gradings.length > 1 && (
        <div className="w-44">
          <Field id={`${id}-grading`} label="Grading">
            <select
              id={`${id}-grading`}
              className={INPUT}
              value={grading}
              onChange={(event) => setGrading(event.target.value)}
            >
              {section.gradings.map((offered) => (
                <option key={offered}>{offered}</option>
              ))}
            </select>
          </Field>
        </div>
      )}
      {varies && (
        <div className="w-32">
          <Field
            id={`${id}-credits`}
            label={`Credits, ${section.credits_least} to ${section.credits_most}`}
          >
            <input
              id={`${id}-credits`}
              className={INPUT}
              type="number"
              step={0.5}
              value={credits}
              onChange={(event) => setCredits(event.target.value)}
            />
          </Field>
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
