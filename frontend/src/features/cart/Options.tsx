import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";
import { CreditsField, GradingField } from "./choices";

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
        <GradingField
          id={`${id}-grading`}
          gradings={options.gradings}
          value={options.grading}
          onChange={(grading) =>
            onChoose({ ...chosen, grading: grading === usual ? null : grading })
          }
        />
      )}
      {varies && (
        <CreditsField
          id={`${id}-credits`}
          least={options.credits_least}
          most={options.credits_most}
          value={credits}
          onChange={setCredits}
        />
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
