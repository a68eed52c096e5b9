/** What is read from the server, under which key, and how often. */
import { QueryCache, QueryClient, queryOptions } from "@tanstack/react-query";
import { api, Problem, rememberToken, take } from "./client";

/** The server says that nobody is signed in any more: so says the session from now on. */
export function tellSignedOut(problem: unknown): void {
  if (problem instanceof Problem && problem.status === 401) {
    queries.setQueryData(
      sessionQuery.queryKey,
      (session) => session && { ...session, person: null },
    );
  }
}

export const queries = new QueryClient({
  queryCache: new QueryCache({ onError: tellSignedOut }),
  defaultOptions: {
    queries: {
      retry: (count, problem) => problem instanceof Problem && problem.isPassing && count < 2,
      retryDelay: 700,
      staleTime: 5_000,
    },
    mutations: { onError: tellSignedOut },
  },
});

/** Open screens are read again this often; sooner while the connection is lost. */
const OFTEN = 10_000;
const SOON = 2_000;

const again = (query: { state: { error: Error | null } }) => (query.state.error ? SOON : OFTEN);

export const sessionQuery = queryOptions({
  queryKey: ["session"],
  queryFn: async () => {
    const session = await take(api.GET("/api/session"));
    rememberToken(session.csrf_token);
    return { ...session, ahead: Date.parse(session.now) - Date.now() };
  },
  refetchInterval: again,
});

export const demoPeopleQuery = queryOptions({
  queryKey: ["demo", "people"],
  queryFn: () => take(api.GET("/api/demo/people")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const demoMomentsQuery = queryOptions({
  queryKey: ["demo", "moments"],
  queryFn: () => take(api.GET("/api/demo/moments")),
  staleTime: Number.POSITIVE_INFINITY,
});

export const termQuery = (term: string) =>
  queryOptions({
    queryKey: ["term", term],
    queryFn: () => take(api.GET("/api/terms/{term}", { params: { path: { term } } })),
    staleTime: 600_000,
  });

export const cartQuery = (term: string) =>
  queryOptions({
    queryKey: ["cart", term],
    queryFn: () => take(api.GET("/api/terms/{term}/cart", { params: { path: { term } } })),
    refetchInterval: again,
  });

export const weekQuery = (term: string) =>
  queryOptions({
    queryKey: ["week", term],
    queryFn: () => take(api.GET("/api/terms/{term}/week", { params: { path: { term } } })),
  });

export const receiptsQuery = (term: string) =>
  queryOptions({
    queryKey: ["receipts", term],
    queryFn: () => take(api.GET("/api/terms/{term}/receipts", { params: { path: { term } } })),
  });

export const receiptQuery = (id: number) =>
  queryOptions({
    queryKey: ["receipt", id],
    queryFn: () =>
      take(api.GET("/api/receipts/{receipt_id}", { params: { path: { receipt_id: id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
