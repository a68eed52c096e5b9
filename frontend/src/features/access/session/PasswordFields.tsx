import { useId, useState } from "react";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { Tick } from "../../../ui/Ticks";
import { LEAST_SIGNS, passwordProblem } from "./passwordRules";

type Props = {
  /** What the person is called and signs in with: neither belongs into a password. */
  names: string[];
  isPending: boolean;
  word: string;
  onSet: (password: string) => void;
};

/** A new password, typed once where it can be read, and what is wrong with it as it is typed. */
export function PasswordFields({ names, isPending, word, onSet }: Props) {
  const id = useId();
  const [password, setPassword] = useState("");
  const [shows, setShows] = useState(false);
  const problem = passwordProblem(password, names);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!problem) onSet(password);
      }}
    >
      <Field id={id} label="New password">
        <input
          id={id}
          className={INPUT}
          type={shows ? "text" : "password"}
          autoComplete="new-password"
          autoCapitalize="none"
          spellCheck={false}
          maxLength={256}
          required
          aria-describedby={`${id}-hint`}
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
      </Field>
      <p id={`${id}-hint`} className="mt-1 text-[13px] text-soft" aria-live="polite">
        {password && problem
          ? problem
          : `At least ${LEAST_SIGNS} signs; a few words in a row are easy to remember.`}
      </p>
      <Tick className="my-3 text-[13px]" checked={shows} onChange={setShows}>
        Show what I type
      </Tick>
      <Button look="main" type="submit" disabled={isPending || problem !== ""}>
        {isPending ? "Setting it…" : word}
      </Button>
    </form>
  );
}
