/**
 * Putting changes through. A sending has a key of its own that is kept until there is an answer,
 * so that after a lost connection, or a reload, the very same sending is repeated and the server
 * gives the first receipt: nothing is put through twice.
 */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type Schemas, take } from "../../api/client";
import { Problem } from "../../api/problem";
import { cartQuery, pathOf, type Subject, tellSignedOut } from "../../api/queries";
import { cartNow } from "../changes/useCartChanges";
import { untilAnswered } from "./untilAnswered";

type Pending = Subject & { key: string; username: string; body: Schemas["Sent"] };

const SLOT = "gremba.sending";

function read(): Pending | null {
  try {
    return JSON.parse(sessionStorage.getItem(SLOT) ?? "null") as Pending | null;
  } catch {
    return null;
  }
}

const pause = (milliseconds: number) =>
  new Promise<void>((resolve) => window.setTimeout(resolve, milliseconds));

const send = (pending: Pending, onTrouble: () => void): Promise<Schemas["ReceiptResponse"]> =>
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
      sessionStorage.setItem(SLOT, JSON.stringify(pending));
      setTroubled(false);
      return send(pending, () => setTroubled(true));
    },
    onSuccess: () => sessionStorage.removeItem(SLOT),
    onError: (problem) => {
      // A cart that another window has changed is shown as it is now, before anything is sent.
      const now = cartNow(problem);
      if (now) client.setQueryData(cartQuery({ term, student }).queryKey, now);
      // After a new sign-in it is sent again with the same key; any other refusal is final.
      tellSignedOut(problem);
      const keep = problem instanceof Problem && (problem.status === 401 || problem.isPassing);
      if (!keep) sessionStorage.removeItem(SLOT);
    },
    onSettled: () =>
      Promise.all(
        ["cart", "receipts", "outlook"].map((what) =>
          client.invalidateQueries({ queryKey: [what, term, student] }),
        ),
      ),
  });
  const { mutate } = sending;
  useEffect(() => {
    const left = read();
    const isOwn = left?.username === username && left.student === student;
    if (left && isOwn && left.term === term) mutate(left);
  }, [term, student, username, mutate]);

  return {
    ...sending,
    troubled,
    start: (body: Schemas["Sent"]) =>
      sending.mutate({ key: crypto.randomUUID(), term, student, username, body }),
    repeat: () => {
      const left = read();
      if (left) sending.mutate(left);
    },
    isLeft: () => read() !== null,
  };
}
