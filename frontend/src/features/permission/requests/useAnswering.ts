/** Answering requests, taking a yes back, and deputies; afterwards the page is read again. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { api, type Schemas, take } from "../../../api/client";

export function useAnswering() {
  const { term = "" } = useParams();
  const client = useQueryClient();
  const onSettled = () => client.invalidateQueries({ queryKey: ["to answer"] });
  const answer = useMutation({
    mutationFn: ({ id, said }: { id: number; said: Schemas["Said"] }) =>
      take(
        api.POST("/api/requests/{request_id}/answer", {
          params: { path: { request_id: id } },
          body: said,
        }),
      ),
    onSettled,
  });
  const takeBack = useMutation({
    mutationFn: ({ id, words }: { id: number; words: string }) =>
      take(
        api.POST("/api/requests/{request_id}/taking-back", {
          params: { path: { request_id: id } },
          body: { words },
        }),
      ),
    onSettled,
  });
  const nameDeputy = useMutation({
    mutationFn: (wanted: Schemas["DeputyWanted"]) =>
      take(api.POST("/api/terms/{term}/deputies", { params: { path: { term } }, body: wanted })),
    onSettled,
  });
  const callOff = useMutation({
    mutationFn: (deputy: number) =>
      take(api.DELETE("/api/deputies/{deputy}", { params: { path: { deputy } } })),
    onSettled,
  });
  return { answer, takeBack, nameDeputy, callOff };
}
