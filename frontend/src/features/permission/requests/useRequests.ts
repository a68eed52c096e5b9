/** Asking, answering back, attaching and taking back; afterwards all that hangs on it is read again. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../../api/client";
import { usePageSubject } from "../../students/subject/usePageSubject";

export type Asked = { number: string; words: string; goesThrough: boolean; files: File[] };

function attach(request: number, file: File) {
  return take(
    api.POST("/api/requests/{request_id}/files", {
      params: { path: { request_id: request }, query: { name: file.name } },
      // As it is: the body is no JSON.
      body: file as never,
      bodySerializer: (body: unknown) => body as BodyInit,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  );
}

export function useRequests() {
  const { term } = usePageSubject();
  const client = useQueryClient();
  const onSettled = () =>
    Promise.all(
      ["requests", "cart", "news"].map((what) => client.invalidateQueries({ queryKey: [what] })),
    );
  const ask = useMutation({
    mutationFn: async ({ number, words, goesThrough, files }: Asked) => {
      const { id } = await take(
        api.POST("/api/terms/{term}/requests", {
          params: { path: { term } },
          body: { number, words, goes_through: goesThrough },
        }),
      );
      for (const file of files) await attach(id, file);
      return id;
    },
    onSettled,
  });
  const answerBack = useMutation({
    mutationFn: async ({ id, words, files }: { id: number; words: string; files: File[] }) => {
      for (const file of files) await attach(id, file);
      await take(
        api.POST("/api/requests/{request_id}/answer-back", {
          params: { path: { request_id: id } },
          body: { words },
        }),
      );
    },
    onSettled,
  });
  const withdraw = useMutation({
    mutationFn: (id: number) =>
      take(
        api.POST("/api/requests/{request_id}/withdrawal", {
          params: { path: { request_id: id } },
        }),
      ),
    onSettled,
  });
  return { ask, answerBack, withdraw };
}
