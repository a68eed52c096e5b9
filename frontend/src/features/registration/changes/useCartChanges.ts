/** What can be done to the cart; every answer of the server is the cart as it then stands. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../../../api/client";
import { Problem } from "../../../api/problem";
import { cartQuery, pathOf, type Subject, weekQuery } from "../../../api/queries";

type Cart = Schemas["CartResponse"];
/** A change as it was seen. */
type Seen = { id: number; version: number };
/** What is chosen for a change; what is left out stays as it is. */
export type Chosen = Omit<Schemas["Choices"], "version">;

/** The cart as it is now, where that is what a problem tells. */
export function cartNow(problem: unknown): Cart | null {
  const moved = problem instanceof Problem && problem.type === "/problems/cart-moved";
  return moved && problem.now ? (problem.now as Cart) : null;
}

/** The cart as an answer of the server has it, with all that hangs on it. */
export function useSettled(subject: Subject): (cart: Cart) => void {
  const client = useQueryClient();
  return (cart) => {
    client.setQueryData(cartQuery(subject).queryKey, cart);
    client.invalidateQueries({ queryKey: weekQuery(subject).queryKey });
    client.invalidateQueries({ queryKey: ["outlook", subject.term, subject.student] });
  };
}

/** By this key it is known whether a change of the cart is still on its way. */
export const CART_CHANGE = ["cart-change"];

/** One after another: the answer to an earlier change never covers that to a later one. */
const inTurn = { mutationKey: CART_CHANGE, scope: { id: "cart-change" } };

export function useCartChanges(subject: Subject) {
  const client = useQueryClient();
  const params = pathOf(subject);
  const change = (change_id: number) => ({
    params: { ...params, path: { ...params.path, change_id } },
  });
  const key = cartQuery(subject).queryKey;
  const settle = useSettled(subject);
  const before = () => client.cancelQueries({ queryKey: key });
  /** Where the cart has moved on, in another window, the answer holds it as it is now. */
  const undo = (problem: Error) => {
    const now = cartNow(problem);
    if (now) settle(now);
    else client.invalidateQueries({ queryKey: key });
  };

  /** Adds sections to the cart of this very subject, also where another has come into sight since. */
  const enter = (text: string): Promise<Schemas["PastedResponse"]> =>
    client
      .getMutationCache()
      .build(client, {
        ...inTurn,
        mutationFn: () =>
          take(api.POST("/api/terms/{term}/cart/changes", { params, body: { kind: "add", text } })),
        onMutate: before,
        onSuccess: (answer: Schemas["PastedResponse"]) => settle(answer.cart),
      })
      .execute(undefined);
  const put = useMutation({
    ...inTurn,
    mutationFn: (changes: Schemas["ProposedChangeSchema"][]) =>
      take(api.POST("/api/terms/{term}/cart/proposals", { params, body: { changes } })),
    onMutate: before,
    onSuccess: (answer) => settle(answer.cart),
  });
  const instead = useMutation({
    ...inTurn,
    mutationFn: ({ id, version, numbers }: Seen & { numbers: string[] }) =>
      take(
        api.PUT("/api/terms/{term}/cart/changes/{change_id}/section", {
          ...change(id),
          body: { version, numbers },
        }),
      ),
    onMutate: before,
    onSuccess: settle,
    onError: undo,
  });
  /** Sets only what is named of what can be chosen for a change. */
  const choose = useMutation({
    ...inTurn,
    mutationFn: ({ id, version, chosen }: Seen & { chosen: Chosen }) =>
      take(
        api.PATCH("/api/terms/{term}/cart/changes/{change_id}", {
          ...change(id),
          body: { version, ...chosen },
        }),
      ),
    onMutate: before,
    onSuccess: settle,
    onError: undo,
  });
  /** Puts an adjustment into the cart and sets what is chosen for it. */
  const adjust = useMutation({
    ...inTurn,
    mutationFn: async ({ number, chosen }: { number: string; chosen: Chosen }) => {
      const changes = [{ kind: "adjust" as const, number, in_exchange: "" }];
      const { cart } = await take(
        api.POST("/api/terms/{term}/cart/proposals", { params, body: { changes } }),
      );
      const made = cart.changes.find(({ outcome }) => outcome.number === number);
      if (!made) return cart;
      return take(
        api.PATCH("/api/terms/{term}/cart/changes/{change_id}", {
          ...change(made.id),
          body: { version: made.version, ...chosen },
        }),
      );
    },
    onMutate: before,
    onSuccess: settle,
    onError: undo,
  });
  const remove = useMutation({
    ...inTurn,
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
  const order = useMutation({
    ...inTurn,
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
    onError: undo,
  });
  const mode = useMutation({
    ...inTurn,
    mutationFn: (mode: Cart["mode"]) =>
      take(api.PUT("/api/terms/{term}/cart/mode", { params, body: { mode } })),
    onMutate: before,
    onSuccess: settle,
  });
  return {
    enter,
    put,
    adjust,
    instead,
    choose,
    remove,
    order,
    mode,
  };
}
