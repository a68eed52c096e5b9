/** What can be done to the cart; every answer of the server is the cart as it then stands. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../../api/client";
import { cartQuery, pathOf, type Whose, weekQuery } from "../../api/queries";

type Cart = Schemas["CartView"];

export function useCartChanges(whose: Whose) {
  const client = useQueryClient();
  const params = pathOf(whose);
  const change = (change_id: number) => ({
    params: { ...params, path: { ...params.path, change_id } },
  });
  const key = cartQuery(whose).queryKey;
  const settle = (cart: Cart) => {
    client.setQueryData(key, cart);
    client.invalidateQueries({ queryKey: weekQuery(whose).queryKey });
    client.invalidateQueries({ queryKey: ["outlook", whose.term, whose.student] });
  };
  const before = () => client.cancelQueries({ queryKey: key });
  const undo = () => client.invalidateQueries({ queryKey: key });

  const add = useMutation({
    mutationFn: (body: Schemas["Pasted"]) =>
      take(api.POST("/api/terms/{term}/cart/changes", { params, body })),
    onMutate: before,
    onSuccess: (answer) => settle(answer.cart),
  });
  const put = useMutation({
    mutationFn: (changes: Schemas["WishView"][]) =>
      take(api.POST("/api/terms/{term}/cart/wishes", { params, body: { changes } })),
    onMutate: before,
    onSuccess: (answer) => settle(answer.cart),
  });
  const instead = useMutation({
    mutationFn: ({ id, numbers }: { id: number; numbers: string[] }) =>
      take(
        api.PUT("/api/terms/{term}/cart/changes/{change_id}/section", {
          ...change(id),
          body: { numbers },
        }),
      ),
    onMutate: before,
    onSuccess: settle,
    onError: undo,
  });
  const choose = useMutation({
    mutationFn: ({ id, options }: { id: number; options: Schemas["Options"] }) =>
      take(
        api.PUT("/api/terms/{term}/cart/changes/{change_id}/options", {
          ...change(id),
          body: options,
        }),
      ),
    onMutate: before,
    onSuccess: settle,
  });
  /** Puts an adjustment into the cart and sets what is chosen for it. */
  const adjust = useMutation({
    mutationFn: async ({ number, options }: { number: string; options: Schemas["Options"] }) => {
      const changes = [{ kind: "adjust" as const, number, gives_up: "" }];
      const { cart } = await take(
        api.POST("/api/terms/{term}/cart/wishes", { params, body: { changes } }),
      );
      const made = cart.changes.find(({ outcome }) => outcome.number === number);
      if (!made) return cart;
      return take(
        api.PUT("/api/terms/{term}/cart/changes/{change_id}/options", {
          ...change(made.id),
          body: options,
        }),
      );
    },
    onMutate: before,
    onSuccess: settle,
    onError: undo,
  });
  const remove = useMutation({
    mutationFn: async (ids: number[]) => {
      let cart: Cart | undefined;
      for (const id of ids)
        cart = await take(api.DELETE("/api/terms/{term}/cart/changes/{change_id}", change(id)));
      return cart;
    },
    onMutate: before,
    onSuccess: (cart) => cart && settle(cart),
    onError: undo,
  });
  const next = useMutation({
    mutationFn: ({ id, orElse }: { id: number; orElse: string[][] }) =>
      take(
        api.PUT("/api/terms/{term}/cart/changes/{change_id}/next", {
          ...change(id),
          body: { or_else: orElse },
        }),
      ),
    onMutate: before,
    onSuccess: settle,
  });
  const waiting = useMutation({
    mutationFn: ({ id, wait }: { id: number; wait: boolean }) =>
      take(
        api.PUT("/api/terms/{term}/cart/changes/{change_id}/waiting", {
          ...change(id),
          body: { wait },
        }),
      ),
    onMutate: before,
    onSuccess: settle,
  });
  const order = useMutation({
    mutationFn: (ids: number[]) =>
      take(api.PUT("/api/terms/{term}/cart/order", { params, body: { ids } })),
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
      take(api.PUT("/api/terms/{term}/cart/mode", { params, body: { mode } })),
    onMutate: before,
    onSuccess: settle,
  });
  return { add, put, adjust, instead, choose, next, waiting, remove, order, mode };
}
