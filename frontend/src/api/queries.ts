/** What is read from the server, under which key, and how often. */
import {
  infiniteQueryOptions,
  keepPreviousData,
  MutationCache,
  QueryCache,
  queryOptions,
} from "@tanstack/react-query";
import { api, rememberToken, type Schemas, take } from "./client";
import { whenMended } from "./connection";
import { Problem } from "./problem";
import { TruthfulQueryClient } from "./queryClient";
import type { operations } from "./schema";

/** The server says that nobody is signed in any more: so says the session from now on. */
function tellSignedOut(problem: unknown): void {
  if (problem instanceof Problem && problem.status === 401) {
    queries.setQueryData(
      sessionQuery.queryKey,
      (session) => session && { ...session, person: null },
    );
  }
}

export const queries = new TruthfulQueryClient({
  queryCache: new QueryCache({ onError: tellSignedOut }),
  // Here and not by default for each: one that minds its own errors would no longer say it.
  mutationCache: new MutationCache({
    onError: (problem, _asked, _context, mutation) => {
      if (!mutation.meta?.signsIn) tellSignedOut(problem);
    },
  }),
  defaultOptions: {
    queries: {
      retry: (count, problem) => problem instanceof Problem && problem.isPassing && count < 2,
      retryDelay: 700,
      staleTime: 5_000,
      // Without network a request is made all the same, and fails: then the page says so.
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

// Not by all pages in the same moment: a server that has come back has enough to do.
whenMended(() => window.setTimeout(() => queries.invalidateQueries(), Math.random() * 1_500));

/** The stream says when something is to be read again; what had no answer is asked for once more. */
const AGAIN = 3_000;

type Asked = { state: { error: Error | null } };

/** Only what may succeed: an address that leads nowhere is asked for once. */
const again = ({ state }: Asked) =>
  state.error instanceof Problem && state.error.isPassing ? AGAIN : false;

function taken(session: Schemas["SessionResponse"]) {
  rememberToken(session.csrf_token);
  return { ...session, ahead: Date.parse(session.now) - Date.now() };
}

/** What came with the page itself, where it did. */
function sentAlong() {
  const text = document.getElementById("session")?.textContent;
  return text ? taken(JSON.parse(text)) : undefined;
}

export const sessionQuery = queryOptions({
  queryKey: ["session"],
  queryFn: async () => taken(await take(api.GET("/api/session"))),
  initialData: sentAlong,
  refetchInterval: again,
});

export const sessionsQuery = queryOptions({
  queryKey: ["sessions"],
  queryFn: () => take(api.GET("/api/sessions")),
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

/** A term, and for an advisor the student it is about. */
export type Subject = { term: string; student?: number | undefined };

export const pathOf = ({ term, student }: Subject) => ({ path: { term }, query: { student } });

export const cartQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["cart", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/cart", { params: pathOf(subject) })),
    refetchInterval: again,
  });

export const weekQuery = (subject: Subject) =>
  queryOptions({
    // Below the cart: whatever is asked for anew because the cart may be another, this is as well.
    queryKey: ["cart", subject.term, subject.student, "week"],
    queryFn: () => take(api.GET("/api/terms/{term}/week", { params: pathOf(subject) })),
  });

export const plansQuery = (subject: Subject) =>
  queryOptions({
    // Below the cart, like the week.
    queryKey: ["cart", subject.term, subject.student, "plans"],
    queryFn: () => take(api.GET("/api/terms/{term}/cart/plans", { params: pathOf(subject) })),
  });

export type Search = NonNullable<operations["search_sections"]["parameters"]["query"]>;

/** Lines of results that are read at a time. */
export const PAGE = 100;

export const searchQuery = (term: string, search: Search, page: number) =>
  queryOptions({
    queryKey: ["search", term, search, page],
    queryFn: ({ signal }) =>
      take(
        api.GET("/api/terms/{term}/search", {
          params: { path: { term }, query: { ...search, offset: page * PAGE, limit: PAGE } },
          signal,
        }),
      ),
    staleTime: 20_000,
    placeholderData: page === 0 ? keepPreviousData : undefined,
  });

export const sectionQuery = (term: string, number: string, against: string) =>
  queryOptions({
    queryKey: ["section", term, number, against],
    queryFn: () =>
      take(
        api.GET("/api/terms/{term}/sections/{number}", {
          params: { path: { term, number }, query: { against } },
        }),
      ),
    placeholderData: (before) => (before?.row.number === number ? before : undefined),
  });

export const outlookQuery = (subject: Subject, number: string) =>
  queryOptions({
    queryKey: ["outlook", subject.term, subject.student, number],
    queryFn: () =>
      take(
        api.GET("/api/terms/{term}/sections/{number}/outlook", {
          params: {
            path: { term: subject.term, number },
            query: { student: subject.student },
          },
        }),
      ),
  });

export const starsQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["stars", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/stars", { params: pathOf(subject) })),
    staleTime: 60_000,
  });

export const academicPlanQuery = (subject: Subject) =>
  queryOptions({
    // Below the cart: what has become of a line changes with it.
    queryKey: ["cart", subject.term, subject.student, "academic plan"],
    queryFn: () => take(api.GET("/api/terms/{term}/academic-plan", { params: pathOf(subject) })),
  });

export const linksQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["links", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/week/links", { params: pathOf(subject) })),
  });

export const sharedQuery = (token: string) =>
  queryOptions({
    queryKey: ["shared", token],
    queryFn: () => take(api.GET("/api/shared/{token}", { params: { path: { token } } })),
  });

export const entriesQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["waitlists", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/waitlist-entries", { params: pathOf(subject) })),
    refetchInterval: again,
  });

export type OfferChoice = { in_exchange: string; chosen_linked_sections: string[] };

export const offerQuery = (place: number, student: number | undefined, choice: OfferChoice) =>
  queryOptions({
    queryKey: ["offer", place, student, choice],
    queryFn: () =>
      take(
        api.GET("/api/waitlist-entries/{entry_id}/offer", {
          params: {
            path: { entry_id: place },
            query: {
              student,
              chosen_linked_sections: choice.chosen_linked_sections,
              in_exchange: choice.in_exchange || undefined,
            },
          },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const newsQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["news", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/news", { params: pathOf(subject) })),
    refetchInterval: again,
  });

export const messagesQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["messages", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/messages", { params: pathOf(subject) })),
    refetchInterval: again,
  });

export const clearanceQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["clearance", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/clearance", { params: pathOf(subject) })),
    refetchInterval: again,
  });

export const confirmationsQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["confirmations", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/confirmations", { params: pathOf(subject) })),
  });

export const confirmationQuery = (id: number, student: number | undefined) =>
  queryOptions({
    queryKey: ["confirmation", id, student],
    queryFn: () =>
      take(
        api.GET("/api/confirmations/{confirmation_id}", {
          params: { path: { confirmation_id: id }, query: { student } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** Keeps a list of the same term while its words are typed: what vanishes under a press is not pressed. */
export const keepOf =
  (term: string) =>
  <T>(before: T | undefined, query?: { queryKey: readonly unknown[] }): T | undefined =>
    query?.queryKey[1] === term ? before : undefined;

export const adviseesQuery = (term: string, search: string) =>
  queryOptions({
    queryKey: ["advisees", term, search],
    queryFn: () =>
      take(
        api.GET("/api/terms/{term}/advisees", { params: { path: { term }, query: { search } } }),
      ),
    placeholderData: keepOf(term),
  });

export const advisingDayQuery = (term: string) =>
  queryOptions({
    queryKey: ["advising day", term],
    queryFn: () => take(api.GET("/api/terms/{term}/advising-day", { params: { path: { term } } })),
    // Nobody's stream tells of all of one's students.
    refetchInterval: 60_000,
  });

export const taughtQuery = (term: string) =>
  queryOptions({
    queryKey: ["taught", term],
    queryFn: () => take(api.GET("/api/terms/{term}/taught", { params: { path: { term } } })),
  });

export const taughtSectionQuery = (term: string, number: string) =>
  queryOptions({
    queryKey: ["taught", term, number],
    queryFn: () =>
      take(api.GET("/api/terms/{term}/taught/{number}", { params: { path: { term, number } } })),
  });

export const feeHoldsQuery = (student: number) =>
  queryOptions({
    queryKey: ["fee-holds", student],
    queryFn: () =>
      take(api.GET("/api/students/{student}/fee-holds", { params: { path: { student } } })),
  });

export const refusedMailQuery = infiniteQueryOptions({
  queryKey: ["refused-mail"],
  queryFn: ({ pageParam }) =>
    take(api.GET("/api/mail/refused", { params: { query: { before: pageParam } } })),
  initialPageParam: undefined as number | undefined,
  getNextPageParam: ({ mails, more }) => (more ? mails.at(-1)?.id : undefined),
});
