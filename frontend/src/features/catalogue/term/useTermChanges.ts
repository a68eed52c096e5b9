import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../../../api/client";
import { sessionQuery } from "../../../api/queries";
import { preparedTermQuery } from "../../../api/registrarQueries";

/** What the registrar changes of a term as a whole. */
export function useTermChanges(term: string) {
  const client = useQueryClient();
  const path = { term };
  const keep = (now: Schemas["PreparedTerm"]) => {
    client.setQueryData(preparedTermQuery(term).queryKey, now);
    // Who sees which terms may be another thing now.
    client.invalidateQueries({ queryKey: sessionQuery.queryKey });
  };
  return {
    setState: useMutation({
      mutationFn: (body: Schemas["Opening"]) =>
        take(api.PUT("/api/office/terms/{term}/state", { params: { path }, body })),
      onSuccess: keep,
      // It may have been refused since something else is at fault by now.
      onError: () => client.invalidateQueries({ queryKey: preparedTermQuery(term).queryKey }),
    }),
    change: useMutation({
      mutationFn: ({ key, value }: { key: string } & Schemas["SettingWanted"]) =>
        take(
          api.PUT("/api/office/terms/{term}/settings/{key}", {
            params: { path: { term, key } },
            body: { value },
          }),
        ),
      onSuccess: keep,
    }),
    carry: useMutation({
      mutationFn: (body: Schemas["ForwardWanted"]) =>
        take(api.POST("/api/office/terms/{term}/carried-forward", { params: { path }, body })),
      onSuccess: () => client.invalidateQueries({ queryKey: sessionQuery.queryKey }),
    }),
  };
}
