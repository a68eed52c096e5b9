/** Answering offers and leaving waitlists; afterwards all that hangs on them is read again. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import type { OfferWish } from "../../api/queries";
import { usePlace } from "../frame/usePlace";

export function useAnswers() {
  const { student } = usePlace();
  const client = useQueryClient();
  const params = (place_id: number) => ({ path: { place_id }, query: { student } });
  const onSettled = () =>
    Promise.all(
      ["places", "news", "messages", "cart", "receipts", "outlook"].map((what) =>
        client.invalidateQueries({ queryKey: [what] }),
      ),
    );
  const accept = useMutation({
    mutationFn: ({ id, wish, key }: { id: number; wish: OfferWish; key: string }) =>
      take(
        api.POST("/api/places/{place_id}/acceptance", {
          params: { ...params(id), header: { "Idempotency-Key": key } },
          body: { in_exchange: wish.in_exchange || null, names: wish.names },
        }),
      ),
    onSettled,
  });
  const decline = useMutation({
    mutationFn: (id: number) =>
      take(api.POST("/api/places/{place_id}/refusal", { params: params(id) })),
    onSettled,
  });
  const leave = useMutation({
    mutationFn: (id: number) => take(api.DELETE("/api/places/{place_id}", { params: params(id) })),
    onSettled,
  });
  return { accept, decline, leave };
}
