import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, take } from "../../api/client";
import { demoMomentsQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { ProblemNotice } from "../../ui/Notice";
import { clockTime, minuteOf, shortMoment } from "../../ui/text";
import type { SignedIn } from "../session/useSignedIn";

/** The moments that matter, and any other: the demo’s clock is moved there. */
export function ClockPanel({ session }: { session: SignedIn }) {
  const id = useId();
  const client = useQueryClient();
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
              disabled={move.isPending}
              onClick={() => move.mutate(at)}
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
          <div className="mt-1 flex items-end gap-2">
            <label htmlFor={`${id}-day`} className="sr-only">
              Day
            </label>
            <input
              id={`${id}-day`}
              type="date"
              className="min-w-0 flex-1 rounded-sm border border-ink bg-white px-2 py-1"
              value={day}
              onChange={(event) => setDay(event.target.value)}
            />
            <label htmlFor={`${id}-time`} className="sr-only">
              Time, such as 17:30
            </label>
            <input
              id={`${id}-time`}
              className="number w-[66px] rounded-sm border border-ink bg-white px-2 py-1"
              placeholder="17:30"
              autoComplete="off"
              value={time}
              onChange={(event) => setTime(event.target.value)}
            />
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
