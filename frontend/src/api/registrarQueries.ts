/** What the registrar reads; only the registrar's pages fetch this file. */
import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
import { api, type Schemas, take } from "./client";

export const preparedTermQuery = (term: string) =>
  queryOptions({
    queryKey: ["office", term, "term"],
    queryFn: () => take(api.GET("/api/office/terms/{term}", { params: { path: { term } } })),
  });

export const termWindowsQuery = (term: string) =>
  queryOptions({
    queryKey: ["office", term, "windows"],
    queryFn: () =>
      take(api.GET("/api/office/terms/{term}/windows", { params: { path: { term } } })),
  });

export type RecordSought = {
  words: string;
  kind: Schemas["AuditKind"] | "";
  since: string;
  until: string;
};

export const recordQuery = ({ words, kind, since, until }: RecordSought) =>
  infiniteQueryOptions({
    queryKey: ["office", "record", words, kind, since, until],
    queryFn: ({ pageParam }) =>
      take(
        api.GET("/api/record", {
          params: {
            query: {
              words,
              kind: kind || undefined,
              since: since || undefined,
              until: until || undefined,
              before: pageParam || undefined,
            },
          },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: ({ next }) => next ?? undefined,
    placeholderData: keepPreviousData,
  });

export const officeSectionsQuery = (term: string) =>
  queryOptions({
    queryKey: ["office", term, "sections"],
    queryFn: () =>
      take(api.GET("/api/office/terms/{term}/sections", { params: { path: { term } } })),
  });

export const foundStudentsQuery = (search: string) =>
  queryOptions({
    queryKey: ["office", "students", search],
    queryFn: () => take(api.GET("/api/students", { params: { query: { search } } })),
    enabled: search.length >= 2,
    placeholderData: search.length >= 2 ? keepPreviousData : undefined,
  });

export const officeStudentQuery = (term: string, student: number) =>
  queryOptions({
    queryKey: ["office", term, "student", student],
    queryFn: () =>
      take(
        api.GET("/api/office/terms/{term}/students/{student}", {
          params: { path: { term, student } },
        }),
      ),
  });
