/** What Timetables reads from the server: apart from the rest, since a first view needs none of it. */
import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
import { api, type Schemas, take } from "./client";
import { pathOf, type Subject } from "./queries";

export type TimetableQuestion = Schemas["QuestionSchema"];

/** Timetables that are read at a time. */
export const WALL = 24;

/** The best timetables in order, so many at a time; the number and the reasons come with each. */
export const timetablesQuery = (subject: Subject, question: TimetableQuestion) =>
  infiniteQueryOptions({
    queryKey: ["timetables", subject.term, subject.student, question],
    queryFn: ({ pageParam, signal }) =>
      take(
        api.POST("/api/terms/{term}/timetables", {
          params: pathOf(subject),
          body: { ...question, first: pageParam, many: WALL, show: [] },
          signal,
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last, pages) =>
      last.timetables.length === WALL ? pages.length * WALL : undefined,
    placeholderData: keepPreviousData,
    staleTime: 20_000,
  });

/** One timetable by its sections, where it is not among those that were read in order. */
export const fittingQuery = (subject: Subject, question: TimetableQuestion, show: string[]) =>
  queryOptions({
    queryKey: ["timetables", subject.term, subject.student, question, show],
    queryFn: ({ signal }) =>
      take(
        api.POST("/api/terms/{term}/timetables", {
          params: pathOf(subject),
          body: { ...question, first: 0, many: 1, show },
          signal,
        }),
      ),
    staleTime: 20_000,
  });

export const draftsQuery = (subject: Subject) =>
  queryOptions({
    queryKey: ["drafts", subject.term, subject.student],
    queryFn: () => take(api.GET("/api/terms/{term}/drafts", { params: pathOf(subject) })),
  });

export const timetableQuery = (term: string, numbers: string) =>
  queryOptions({
    queryKey: ["timetable", term, numbers],
    queryFn: () =>
      take(
        api.GET("/api/terms/{term}/timetable", { params: { path: { term }, query: { numbers } } }),
      ),
    enabled: numbers !== "",
  });

export const sharedTimetableQuery = (token: string) =>
  queryOptions({
    queryKey: ["shared timetable", token],
    queryFn: () => take(api.GET("/api/shared/timetables/{token}", { params: { path: { token } } })),
  });
