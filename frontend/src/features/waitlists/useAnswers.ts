/** Answering offers and leaving waitlists; afterwards all that hangs on them is read again. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import type { OfferChoice } from "../../api/queries";
import { usePageSubject } from "../students/subject/usePageSubject";

export function useAnswers() {
  const { student } = usePageSubject();
  const client = useQueryClient();
  const params = (entry_id: number) => ({ path: { entry_id }, query: { student } });
  const onSettled = () =>
    Promise.all(
      ["waitlists", "news", "messages", "cart", "confirmations", "outlook"].map((what) =>
        client.invalidateQueries({ queryKey: [what] }),
      ),
    );
  const accept = useMutation({
    mutationFn: ({ id, choice, key }: { id: number; choice: OfferChoice; key: string }) =>
      take(
        api.POST("/api/waitlist-entries/{entry_id}/acceptance", {
          params: { ...params(id), header: { "Idempotency-Key": key } },
          body: {
            in_exchange: choice.in_exchange || null,
            chosen_linked_sections: choice.chosen_linked_sections,
          },
        }),
      ),
    onSettled,
  });
  const decline = useMutation({
    mutationFn: (id: number) =>
      take(api.POST("/api/waitlist-entries/{entry_id}/refusal", { params: params(id) })),
    onSettled,
  });
  const leave = useMutation({
    mutationFn: (id: number) =>
      take(api.DELETE("/api/waitlist-entries/{entry_id}", { params: params(id) })),
    onSettled,
  });
  return { accept, decline, leave };
}
