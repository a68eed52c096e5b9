import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { addDays, campusDay, dayOfWeek, shortDay } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { useDraftWords } from "./useDraftWords";
import { WordsField } from "./WordsField";
import { lifted } from "./words";

export type Answer = Schemas["Said"]["answer"];
type Props = {
  request: Schemas["RequestToAnswer"];
  saying: Answer | "back";
  session: SignedIn;
  latest: string;
  isPending: boolean;
  onSay: (words: string, until: string | null) => void;
  onCancel: () => void;
};

const MOST_WORDS = 2000;

const LABELS: Record<Answer | "back", string> = {
  yes: "Words to the student, if you like",
  no: "Why not",
  "not yet": "Your question",
  back: "Why you take it back",
};

const SAY: Record<Answer | "back", string> = {
  yes: "Say yes",
  no: "Say no",
  "not yet": "Ask back",
  back: "Take it back",
};

/** The words of an answer, and for a yes until which day it is good. */
export function AnswerForm(props: Props) {
  const { request, saying, session, latest, isPending, onSay, onCancel } = props;
  const id = useId();
  const [words, keep, forget] = useDraftWords(`${saying} ${request.id}`);
  const last = campusDay(new Date(latest), session.zone);
  const [until, setUntil] = useState(last);
  const today = campusDay(new Date(Date.now() + session.ahead), session.zone);
  const days: string[] = [];
  for (let day = last; day >= today; day = addDays(day, -1)) days.unshift(day);
  const isTooLong = words.trim().length > MOST_WORDS;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    // The last day is good as long as the policy has it; any other to its end.
    onSay(words.trim(), until === last ? null : `${until}T23:59:59`);
    forget();
  };
  return (
    <form className="mt-2.5 bg-shade p-3" onSubmit={submit}>
      {saying === "yes" && (
        <p className="mb-2 text-[13px]">
          It lifts {lifted(request.waives)}, for {request.student} and this section alone, once.
        </p>
      )}
      <WordsField
        label={LABELS[saying]}
        value={words}
        most={MOST_WORDS}
        onChange={keep}
        autoFocus
      />
      {saying === "yes" && (
        <div className="mt-1 w-44">
          <Field id={id} label="Good through">
            <select
              id={id}
              className={INPUT}
              value={until}
              onChange={(event) => setUntil(event.target.value)}
            >
              {days.map((day) => (
                <option key={day} value={day}>
                  {`${dayOfWeek(day)} ${shortDay(day).split(" ")[1]}`}
                </option>
              ))}
            </select>
          </Field>
        </div>
      )}
      <div className="mt-2 flex gap-2">
        <Button
          type="submit"
          look="main"
          className="px-4 py-1"
          disabled={isPending || isTooLong || (saying !== "yes" && !words.trim())}
        >
          {SAY[saying]}
        </Button>
        <Button look="quiet" onClick={onCancel}>
          Not now
        </Button>
      </div>
    </form>
  );
}
