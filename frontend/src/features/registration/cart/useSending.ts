/**
 * Putting changes through. A sending has a key of its own that is kept until there is an answer,
 * so that after a lost connection, or a reload, the very same sending is repeated and the server
 * gives the first confirmation: nothing is put through twice.
 */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type Schemas, take } from "../../../api/client";
import { Problem } from "../../../api/problem";
import { cartQuery, pathOf, type Subject } from "../../../api/queries";
import { cartNow } from "../changes/useCartChanges";
import { untilAnswered } from "./untilAnswered";

type Pending = Subject & { key: string; username: string; body: Schemas["SubmissionWanted"] };

/** Each term and student has a slot: what waits for an answer in one is not overwritten by another. */
const slotOf = ({ term, student }: Subject) => `gremba.sending.${term}.${student ?? "own"}`;

function read(subject: Subject, username: string): Pending | null {
  try {
    const left = JSON.parse(sessionStorage.getItem(slotOf(subject)) ?? "null") as Pending | null;
    return left?.username === username ? left : null;
  } catch {
    return null;
  }
}

const pause = (milliseconds: number) =>
  new Promise<void>((resolve) => window.setTimeout(resolve, milliseconds));

const send = (pending: Pending, onTrouble: () => void): Promise<Schemas["ConfirmationResponse"]> =>
  untilAnswered(
    () =>
      take(
        api.POST("/api/terms/{term}/submissions", {
          params: { ...pathOf(pending), header: { "Idempotency-Key": pending.key } },
          body: pending.body,
        }),
      ),
    onTrouble,
    pause,
  );

export function useSending({ term, student }: Subject, username: string) {
  const client = useQueryClient();
  const [troubled, setTroubled] = useState(false);
  const sending = useMutation({
    mutationFn: async (pending: Pending) => {
      sessionStorage.setItem(slotOf(pending), JSON.stringify(pending));
      setTroubled(false);
      return send(pending, () => setTroubled(true));
    },
    onSuccess: (_confirmation, pending) => sessionStorage.removeItem(slotOf(pending)),
    onError: (problem, pending) => {
      // A cart that another window has changed is shown as it is now, before anything is sent.
      const now = cartNow(problem);
      if (now) client.setQueryData(cartQuery(pending).queryKey, now);
      // After a new sign-in it is sent again with the same key; any other refusal is final.
      const keep = problem instanceof Problem && (problem.status === 401 || problem.isPassing);
      if (!keep) sessionStorage.removeItem(slotOf(pending));
    },
    onSettled: (_confirmation, _problem, pending) =>
      Promise.all(
        ["cart", "confirmations", "outlook"].map((what) =>
          client.invalidateQueries({ queryKey: [what, pending.term, pending.student] }),
        ),
      ),
  });
  const { mutate } = sending;
  useEffect(() => {
    const left = read({ term, student }, username);
    if (left) mutate(left);
  }, [term, student, username, mutate]);

  return {
    ...sending,
    troubled,
    start: (body: Schemas["SubmissionWanted"]) =>
      sending.mutate({ key: crypto.randomUUID(), term, student, username, body }),
    repeat: () => {
      const left = read({ term, student }, username);
      if (left) sending.mutate(left);
    },
    isLeft: () => read({ term, student }, username) !== null,
  };
}
