/** What is read of accounts, by students and by the cashier; only their pages fetch this file. */
import { infiniteQueryOptions, queryOptions } from "@tanstack/react-query";
import { api, take } from "./client";
import { keepOf } from "./queries";

export const accountQuery = (term: string) =>
  queryOptions({
    queryKey: ["account", term],
    queryFn: () => take(api.GET("/api/terms/{term}/account", { params: { path: { term } } })),
  });

export const paymentQuery = (reference: string) =>
  queryOptions({
    queryKey: ["payment", reference],
    queryFn: () => take(api.GET("/api/payments/{reference}", { params: { path: { reference } } })),
    // It may still be on its way: asked for again until there is an answer.
    refetchInterval: ({ state }) => (state.data?.state === "waiting" ? 4_000 : false),
    retry: false,
  });

export const owingQuery = (term: string, search: string, onlyOpen: boolean) =>
  infiniteQueryOptions({
    queryKey: ["owing", term, search, onlyOpen],
    queryFn: ({ pageParam }) =>
      take(
        api.GET("/api/terms/{term}/accounts", {
          params: { path: { term }, query: { search, only_open: onlyOpen, place: pageParam } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: ({ next }) => next || undefined,
    placeholderData: keepOf(term),
  });

export const deskQuery = (term: string, student: number) =>
  queryOptions({
    queryKey: ["owing", term, "desk", student],
    queryFn: () =>
      take(
        api.GET("/api/terms/{term}/accounts/{student}", { params: { path: { term, student } } }),
      ),
  });

export const nonpaymentDropsQuery = (term: string) =>
  queryOptions({
    queryKey: ["owing", term, "nonpayment"],
    queryFn: () =>
      take(api.GET("/api/terms/{term}/nonpayment-drops", { params: { path: { term } } })),
    // While one is being made its figures grow; and each begins by itself when its minute has come.
    refetchInterval: ({ state }) => {
      const ahead = state.data?.filter(({ done_at }) => !done_at) ?? [];
      if (ahead.some(({ has_come }) => has_come)) return 2_000;
      return ahead.length > 0 ? 10_000 : false;
    },
  });

/** Whom a drop for nonpayment would reach, or what it did: read on to the end by itself, since the sums need all of it. */
export const nonpaymentLinesQuery = (term: string, at: string, isDone: boolean) =>
  infiniteQueryOptions({
    queryKey: ["owing", term, "nonpayment", at, isDone],
    queryFn: ({ pageParam }) =>
      take(
        isDone
          ? api.POST("/api/terms/{term}/nonpayment-drops/results", {
              params: { path: { term }, query: { after: Number(pageParam || 0) } },
              body: { at },
            })
          : api.POST("/api/terms/{term}/nonpayment-drops/trial", {
              params: { path: { term }, query: { place: pageParam } },
              body: { at },
            }),
      ),
    initialPageParam: "",
    getNextPageParam: ({ next }) => next || undefined,
    staleTime: 60_000,
  });
