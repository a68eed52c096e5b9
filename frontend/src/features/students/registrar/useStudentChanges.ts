import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../../../api/client";
import { useOnce } from "../../../api/once";
import { officeStudentQuery } from "../../../api/registrarQueries";

/** What the registrar does for or to one student. */
export function useStudentChanges(term: string, student: number) {
  const client = useQueryClient();
  const { queryKey } = officeStudentQuery(term, student);
  const path = { term, student };
  const keep = (now: Schemas["OfficeStudent"]) => client.setQueryData(queryKey, now);
  return {
    limit: useMutation({
      mutationFn: (body: Schemas["LimitWanted"]) =>
        take(
          api.PUT("/api/office/terms/{term}/students/{student}/limit", { params: { path }, body }),
        ),
      onSuccess: keep,
    }),
    place: useOnce(
      (body: Schemas["HoldWanted"], header) =>
        take(
          api.POST("/api/office/terms/{term}/students/{student}/holds", {
            params: { path, header },
            body,
          }),
        ),
      { onSuccess: keep },
    ),
    lift: useMutation({
      mutationFn: ({ hold_id, why }: { hold_id: number; why: string }) =>
        take(
          api.POST("/api/office/terms/{term}/students/{student}/holds/{hold_id}/lifting", {
            params: { path: { ...path, hold_id } },
            body: { why },
          }),
        ),
      onSuccess: keep,
    }),
    liftRules: useOnce(
      (body: Schemas["RulesLifted"], header) =>
        take(
          api.POST("/api/office/terms/{term}/students/{student}/lifted-rules", {
            params: { path, header },
            body,
          }),
        ),
      { onSuccess: keep },
    ),
    setWindow: useMutation({
      mutationFn: (body: Schemas["WindowForOne"]) =>
        take(
          api.PUT("/api/office/terms/{term}/students/{student}/windows", {
            params: { path },
            body,
          }),
        ),
      onSuccess: () => client.invalidateQueries({ queryKey }),
    }),
  };
}
