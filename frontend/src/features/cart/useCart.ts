/** What can be done to the cart; every answer of the server is the cart as it then stands. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../../api/client";
import { cartQuery, weekQuery } from "../../api/queries";

type Cart = Schemas["CartView"];

export function useCartChanges(term: string) {
  const client = useQueryClient();
  const path = { params: { path: { term } } };
  const key = cartQuery(term).queryKey;
  const settle = (cart: Cart) => {
    client.setQueryData(key, cart);
    client.invalidateQueries({ queryKey: weekQuery(term).queryKey });
  };
  const before = () => client.cancelQueries({ queryKey: key });
  const undo = () => client.invalidateQueries({ queryKey: key });

  const add = useMutation({
    mutationFn: (body: Schemas["Pasted"]) =>
      take(api.POST("/api/terms/{term}/cart/changes", { ...path, body })),
    onMutate: before,
    onSuccess: (answer) => settle(answer.cart),
  });
  const remove = useMutation({
    mutationFn: (change_id: number) =>
      take(
        api.DELETE("/api/terms/{term}/cart/changes/{change_id}", {
          params: { path: { term, change_id } },
        }),
      ),
    onMutate: before,
    onSuccess: settle,
  });
  const order = useMutation({
    mutationFn: (ids: number[]) =>
      take(api.PUT("/api/terms/{term}/cart/order", { ...path, body: { ids } })),
    onMutate: async (ids) => {
      await before();
      // Shown at once in the new order; the verdicts follow with the server's answer.
      client.setQueryData(
        key,
        (cart) =>
          cart && {
            ...cart,
            changes: ids.flatMap((id) => cart.changes.find((change) => change.id === id) ?? []),
          },
      );
    },
    onSuccess: settle,
    onSettled: (_, problem) => problem && undo(),
  });
  const mode = useMutation({
    mutationFn: (mode: Cart["mode"]) =>
      take(api.PUT("/api/terms/{term}/cart/mode", { ...path, body: { mode } })),
    onMutate: before,
    onSuccess: settle,
  });
  return { add, remove, order, mode };
}
