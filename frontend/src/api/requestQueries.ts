/** What is read of requests to people; only their pages fetch this file. */
import { queryOptions } from "@tanstack/react-query";
import { api, take } from "./client";
import { pathOf, type Subject } from "./queries";

export const requestsQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["requests", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/requests", { params: pathOf(subject) })),
  });

export const askingQuery = ({ term, student }: Subject, number: string) =>
  queryOptions({
    // Below the cart: with what stands there it may be another thing that is asked for.
    queryKey: ["cart", term, student, "asking", number],
    queryFn: () =>
      take(
        api.GET("/api/terms/{term}/asking/{number}", {
          params: { path: { term, number }, query: { student } },
        }),
      ),
    retry: false,
  });

export const toAnswerQuery = (term: string) =>
  queryOptions({
    queryKey: ["to answer", term],
    queryFn: () =>
      take(api.GET("/api/terms/{term}/requests-to-answer", { params: { path: { term } } })),
    // Nobody's stream tells of other people's requests.
    refetchInterval: 30_000,
  });

/** What was answered before a request, a page of it. */
export const answeredBeforeQuery = (term: string, before: number) =>
  queryOptions({
    queryKey: ["requests", "answered", term, before],
    queryFn: () =>
      take(
        api.GET("/api/terms/{term}/requests-to-answer", {
          params: { path: { term }, query: { before } },
        }),
      ),
  });
