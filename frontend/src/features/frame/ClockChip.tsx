import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, take } from "../../api/client";
import { demoMomentsQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Dropdown } from "../../ui/Dropdown";
import { ProblemNotice } from "../../ui/Notice";
import { shortMoment } from "../../ui/text";
import { useNow } from "../../ui/useNow";
import type { SignedIn } from "../session/useSignedIn";
import { CHIP } from "./chip";

/** The campus time; in the demo it opens the panel that moves it. */
export function ClockChip({ session }: { session: SignedIn }) {
  const now = shortMoment(useNow(session.ahead), session.zone);
  if (!session.demo) return <time className={`${CHIP} number`}>{now}</time>;
  return (
    <Dropdown
      className={`${CHIP} number hover:border-ink`}
      face={now}
      name={`Campus clock: ${now}`}
      title="Campus clock"
      align="end"
      look="max-h-[80dvh] w-[310px] overflow-auto p-4"
    >
      <ClockPanel session={session} />
    </Dropdown>
  );
}

function ClockPanel({ session }: { session: SignedIn }) {
  const id = useId();
  const client = useQueryClient();
  const moments = useQuery(demoMomentsQuery);
  const [own, setOwn] = useState("");
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
        <label htmlFor={id} className="text-[13px]">
          Another time of the campus
        </label>
        <div className="mt-1 flex gap-2">
          <input
            id={id}
            type="datetime-local"
            className="min-w-0 flex-1 rounded-sm border border-ink bg-white px-2 py-1"
            value={own}
            onChange={(event) => setOwn(event.target.value)}
          />
          <Button type="submit" disabled={!own || move.isPending}>
            Move
          </Button>
        </div>
      </form>
      {move.isError && (
        <div className="mt-3">
          <ProblemNotice problem={move.error} />
        </div>
      )}
    </>
  );
}
