import { type FormEvent, useState } from "react";
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { DayField } from "../../../ui/DayField";
import { ProblemNotice } from "../../../ui/Notice";
import { shortDay } from "../../../ui/text";
import { UserNameField } from "../../../ui/UserNameField";
import { useToday } from "../../access/session/useToday";
import { useAnswering } from "./useAnswering";

/** Who decides while one is away, and for whom one does. */
export function Delegates({ delegates }: { delegates: Schemas["DelegateResponse"][] }) {
  const announce = useAnnounce();
  const today = useToday();
  const { nameDelegate, callOff } = useAnswering();
  const [username, setUsername] = useState("");
  const [from, setFrom] = useState("");
  const [until, setUntil] = useState("");
  const problem = nameDelegate.error ?? callOff.error;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    nameDelegate.mutate(
      { username, from_on: from, until_on: until },
      {
        onSuccess: () => {
          announce(`${username} decides in your place from ${shortDay(from)}.`);
          setUsername("");
        },
      },
    );
  };
  return (
    <details className="mt-8 border-t border-hair pt-2" open={delegates.length > 0}>
      <summary className="w-fit py-1 text-soft hover:text-ink">While somebody is away</summary>
      <ul className="text-[13px]">
        {delegates.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 py-1">
            <span>
              {one.is_mine
                ? `${one.delegate} decides in your place`
                : `You decide in the place of ${one.person}`}
              , {shortDay(one.from_on)} to {shortDay(one.until_on)}.
            </span>
            {one.is_mine && (
              <Button look="link" onClick={() => callOff.mutate(one.id)}>
                Call off<span className="sr-only"> {one.delegate}</span>
              </Button>
            )}
          </li>
        ))}
      </ul>
      <form className="mt-2 flex flex-wrap items-start gap-3 text-[13px]" onSubmit={submit}>
        <UserNameField
          label="Colleague (user name)"
          required
          value={username}
          onChange={setUsername}
        />
        <div className="w-40">
          <DayField label="From" required today={today} value={from} onChange={setFrom} />
        </div>
        <div className="w-40">
          <DayField
            label="Through"
            required
            today={today}
            min={from || undefined}
            value={until}
            onChange={setUntil}
          />
        </div>
        <Button type="submit" className="mt-[27px]" disabled={nameDelegate.isPending}>
          Let them decide
        </Button>
      </form>
      {problem && (
        <div className="mt-2">
          <ProblemNotice problem={problem} />
        </div>
      )}
    </details>
  );
}
