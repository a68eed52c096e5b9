import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { CreditsField, GradingField } from "../changes/choices";
import type { Chosen } from "../changes/useCartChanges";

type Options = Schemas["OptionsResponse"];
type Props = {
  options: Options;
  onChoose: (chosen: Chosen) => void;
};

/** Whether there is anything to choose. */
export function hasChoices(options: Options | null): options is Options {
  return (
    options !== null &&
    (options.gradings.length > 1 ||
      options.credits_least < options.credits_most ||
      options.takes_consent ||
      options.loosens.length > 0)
  );
}

/** Grading basis, credits where they vary, a permission code, and what becomes of places. */
export function OptionsForm({ options, onChoose }: Props) {
  const id = useId();
  const [code, setCode] = useState(options.permission_code);
  const [credits, setCredits] = useState(String(options.credits));
  const isNewCode = code !== options.permission_code;
  const areNewCredits = options.varies && credits !== String(options.credits);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onChoose({
      ...(isNewCode ? { permission_code: code } : {}),
      ...(areNewCredits ? { credits: Number(credits) } : {}),
    });
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
          onChange={({ name, earns_credits }) =>
            onChoose(earns_credits ? { grading: name } : { grading: name, credits: null })
          }
        />
      )}
      {options.varies && (
        <CreditsField
          id={`${id}-credits`}
          least={options.credits_least}
          most={options.credits_most}
          value={credits}
          onChange={setCredits}
        />
      )}
      {options.takes_consent && (
        <Field id={`${id}-permission-code`} label="Permission code">
          <input
            id={`${id}-permission-code`}
            className={`${INPUT} number uppercase`}
            autoComplete="off"
            maxLength={20}
            value={code}
            onChange={(event) => setCode(event.target.value)}
            data-permission-code
          />
        </Field>
      )}
      {(options.varies || options.takes_consent) && (
        <div className="flex items-end">
          <Button type="submit" disabled={!isNewCode && !areNewCredits}>
            Set
          </Button>
        </div>
      )}
      {options.loosens.length > 0 && (
        <fieldset className="col-span-2 text-small">
          <legend className="text-soft">You wait for {options.loosens.join(", ")}</legend>
          {[
            [false, "keep waiting, with nothing given up"],
            [true, "leave that waitlist as well"],
          ].map(([leaves, words]) => (
            <label
              key={String(words)}
              className="flex min-h-[28px] cursor-pointer items-center gap-2"
            >
              <input
                type="radio"
                name={`${id}-places`}
                className="size-4 accent-pine"
                checked={options.leaves_waitlists === leaves}
                onChange={() => onChoose({ leaves_waitlists: Boolean(leaves) })}
              />
              {words}
            </label>
          ))}
        </fieldset>
      )}
    </form>
  );
}
