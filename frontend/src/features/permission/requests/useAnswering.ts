/** Answering requests, taking a yes back, and delegates; afterwards the page is read again. */
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
  const nameDelegate = useMutation({
    mutationFn: (wanted: Schemas["DelegateWanted"]) =>
      take(api.POST("/api/terms/{term}/delegates", { params: { path: { term } }, body: wanted })),
    onSettled,
  });
  const callOff = useMutation({
    mutationFn: (delegate: number) =>
      take(api.DELETE("/api/delegates/{delegate}", { params: { path: { delegate } } })),
    onSettled,
  });
  return { answer, takeBack, nameDelegate, callOff };
}
