/** Paying is done on the payment service's own page: begun here, and off to it. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../../api/client";
import { cartQuery, clearanceQuery } from "../../../api/queries";
import { usePageSubject } from "../../students/subject/usePageSubject";

export function usePaying() {
  const client = useQueryClient();
  const subject = usePageSubject();
  const { term } = subject;
  const away = ({ page }: { page: string }) => window.location.assign(page);
  const payHold = useMutation({
    mutationFn: (hold: number) =>
      take(
        api.POST("/api/holds/{hold_id}/payment", {
          params: { path: { hold_id: hold }, header: { back: `/${term}/clearance` } },
        }),
      ),
    onSuccess: away,
  });
  const paySum = useMutation({
    /** What was paid by the account on the screen: after another payment it is another account. */
    mutationFn: ({ cents, paid }: { cents: number; paid: number }) =>
      take(
        api.POST("/api/terms/{term}/account/payments", {
          params: { path: { term } },
          body: { amount_cents: cents, paid_cents: paid },
        }),
      ),
    onSuccess: away,
    onError: () => client.invalidateQueries({ queryKey: ["account"] }),
  });
  const ask = useMutation({
    mutationFn: (reference: string) =>
      take(api.POST("/api/payments/{reference}/question", { params: { path: { reference } } })),
    onSettled: () => {
      for (const queryKey of [
        clearanceQuery(subject).queryKey,
        cartQuery(subject).queryKey,
        ["account"],
        ["payment"],
      ])
        client.invalidateQueries({ queryKey });
    },
  });
  return { payHold, paySum, ask };
}
