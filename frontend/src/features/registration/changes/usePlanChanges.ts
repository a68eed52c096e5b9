/** What can be done with timetables of Timetables in the cart: as changes, or as plans in order. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../../../api/client";
import { cartQuery, pathOf, plansQuery, type Subject } from "../../../api/queries";
import type { TimetableQuestion } from "../../../api/timetableQueries";
import { CART_CHANGE, useSettled } from "./useCartChanges";

export function usePlanChanges(subject: Subject) {
  const client = useQueryClient();
  const params = pathOf(subject);
  const settle = useSettled(subject);
  /** Puts a timetable of Timetables into the cart, in the place of what the cart wants of its courses. */
  const takeTimetable = useMutation({
    mutationKey: CART_CHANGE,
    mutationFn: ({ question, numbers }: { question: TimetableQuestion; numbers: string[] }) =>
      take(
        api.POST("/api/terms/{term}/timetables/cart", {
          params,
          body: { ...question, first: 0, many: 1, show: numbers },
        }),
      ),
    onMutate: () => client.cancelQueries({ queryKey: cartQuery(subject).queryKey }),
    onSuccess: (answer) => settle(answer.cart),
  });
  const plansKey = plansQuery(subject).queryKey;
  const settlePlans = (plans: Schemas["PlansResponse"]) => client.setQueryData(plansKey, plans);
  const undoPlans = () => client.invalidateQueries({ queryKey: plansKey });
  /** Puts a timetable of Timetables behind the plans that stand in the cart. */
  const putPlan = useMutation({
    mutationFn: ({ question, numbers }: { question: TimetableQuestion; numbers: string[] }) =>
      take(
        api.POST("/api/terms/{term}/cart/plans", {
          params,
          body: { ...question, first: 0, many: 1, show: numbers },
        }),
      ),
    onSuccess: settlePlans,
  });
  /** Lets these be the plans, in this order. */
  const orderPlans = useMutation({
    mutationFn: (ids: number[]) =>
      take(api.PUT("/api/terms/{term}/cart/plans/order", { params, body: { ids } })),
    onSuccess: settlePlans,
    onError: undoPlans,
  });
  const fallback = useMutation({
    mutationFn: (fallback: Schemas["FallbackChoice"]["fallback"]) =>
      take(api.PUT("/api/terms/{term}/cart/plans/fallback", { params, body: { fallback } })),
    onSuccess: settlePlans,
    onError: undoPlans,
  });
  return { takeTimetable, putPlan, orderPlans, fallback };
}
