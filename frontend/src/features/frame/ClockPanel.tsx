import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, take } from "../../api/client";
import { demoMomentsQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { DayField } from "../../ui/DayField";
import { Field, INPUT } from "../../ui/Field";
import { ProblemNotice } from "../../ui/Notice";
import { pressable } from "../../ui/pressable";
import { clockTime, minuteOf, shortMoment } from "../../ui/text";
import type { SignedIn } from "../access/session/useSignedIn";
import { useToday } from "../access/session/useToday";

/** The moments that matter, and any other: the demo’s clock is moved there. */
export function ClockPanel({ session }: { session: SignedIn }) {
  const id = useId();
  const client = useQueryClient();
  const today = useToday();
  const moments = useQuery(demoMomentsQuery);
  const [day, setDay] = useState("");
  const [time, setTime] = useState("");
  const minute = minuteOf(time);
  const own = day && minute !== null ? `${day}T${clockTime(minute)}` : "";
  const move = useMutation({
    mutationFn: (to: string) => take(api.PUT("/api/demo/clock", { body: { to } })),
    onSuccess: () => client.invalidateQueries(),
  });
  return (
    <>
      <h2 className="text-[18px]">Campus clock</h2>
      <p className="mt-1 mb-3 text-[13px] text-soft">
        The demo’s own time. Moving it moves it for everybody who uses this demo.
      </p>
      <ul className="border-t border-hair">
        {moments.data?.map(({ name, at }) => (
          <li key={name} className="border-b border-hair">
            <button
              type="button"
              className="flex w-full flex-col py-1.5 text-left hover:bg-shade"
              {...pressable(move.isPending, () => move.mutate(at))}
            >
              <span>{name}</span>
              <span className="number text-soft">{shortMoment(new Date(at), session.zone)}</span>
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (own) move.mutate(own);
        }}
      >
        <fieldset>
          <legend className="text-[13px]">Another time of the campus</legend>
          <div className="mt-1 flex items-end gap-2 text-[13px]">
            <div className="min-w-0 flex-1">
              <DayField label="Day" today={today} value={day} onChange={setDay} />
            </div>
            <div className="w-[72px]">
              <Field id={`${id}-time`} label="Time">
                <input
                  id={`${id}-time`}
                  className={INPUT}
                  placeholder="17:30"
                  autoComplete="off"
                  maxLength={5}
                  value={time}
                  onChange={(event) => setTime(event.target.value)}
                />
              </Field>
            </div>
            <Button type="submit" disabled={!own || move.isPending}>
              Move
            </Button>
          </div>
        </fieldset>
      </form>
      {move.isError && (
        <div className="mt-3">
          <ProblemNotice problem={move.error} />
        </div>
      )}
    </>
  );
}
