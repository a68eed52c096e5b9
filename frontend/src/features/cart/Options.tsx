import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";

type Options = Schemas["OptionsView"];
type Props = {
  options: Options;
  onChoose: (options: Schemas["Options"]) => void;
};

/** Whether there is anything to choose. */
export function hasChoices(options: Options | null): options is Options {
  return (
    options !== null &&
    (options.gradings.length > 1 ||
      options.credits_least < options.credits_most ||
      options.takes_consent)
  );
}

/** Grading basis, credits where they vary, and a consent code. */
export function OptionsForm({ options, onChoose }: Props) {
  const id = useId();
  const [code, setCode] = useState(options.consent);
  const varies = options.credits_least < options.credits_most;
  const [credits, setCredits] = useState(String(options.credits));
  const usual = options.gradings[0];
  const chosen = {
    grading: options.grading && options.grading !== usual ? options.grading : null,
    credits: varies && options.grading !== "audit" ? options.credits : null,
    consent: options.consent,
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onChoose({ ...chosen, credits: varies ? Number(credits) : null, consent: code });
  };
  return (
    <form
      className="mt-2 grid grid-cols-2 gap-x-3 gap-y-2 border-t border-hair pt-2"
      onSubmit={submit}
    >
      {options.gradings.length > 1 && (
        <Field id={`${id}-grading`} label="Grading">
          <select
            id={`${id}-grading`}
            className={INPUT}
            value={options.grading}
            onChange={(event) =>
              onChoose({
                ...chosen,
                grading: event.target.value === usual ? null : event.target.value,
              })
            }
          >
            {options.gradings.map((grading) => (
              <option key={grading}>{grading}</option>
            ))}
          </select>
        </Field>
      )}
      {varies && (
        <Field
          id={`${id}-credits`}
          label={`Credits, ${options.credits_least} to ${options.credits_most}`}
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
      )}
      {options.takes_consent && (
        <Field id={`${id}-consent`} label="Consent code">
          <input
            id={`${id}-consent`}
            className={`${INPUT} number uppercase`}
            autoComplete="off"
            maxLength={20}
            value={code}
            onChange={(event) => setCode(event.target.value)}
            data-consent
          />
        </Field>
      )}
      {(varies || options.takes_consent) && (
        <div className="flex items-end">
          <Button
            type="submit"
            disabled={code === options.consent && credits === String(options.credits)}
          >
            Set
          </Button>
        </div>
      )}
    </form>
  );
}
