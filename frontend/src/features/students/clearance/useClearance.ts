/** What a student can clear alone; afterwards the open cart is read again. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, type Schemas, take } from "../../../api/client";
import { cartQuery, clearanceQuery } from "../../../api/queries";
import { usePageSubject } from "../subject/usePageSubject";

type Step =
  | { kind: "agreement" | "orientation" }
  | { kind: "details"; details: Schemas["DetailsSchema"] }
  | { kind: "survey"; answers: Record<string, string> };

export function useClearing() {
  const client = useQueryClient();
  const subject = usePageSubject();
  const params = { path: { term: subject.term } };
  const recall = () => client.invalidateQueries({ queryKey: cartQuery(subject).queryKey });
  const clear = useMutation({
    mutationFn: (step: Step) => {
      switch (step.kind) {
        case "agreement":
          return take(api.POST("/api/terms/{term}/clearance/agreement", { params }));
        case "orientation":
          return take(api.POST("/api/terms/{term}/clearance/orientation", { params }));
        case "details":
          return take(
            api.POST("/api/terms/{term}/clearance/details", { params, body: step.details }),
          );
        case "survey":
          return take(
            api.POST("/api/terms/{term}/clearance/survey", {
              params,
              body: { answers: step.answers },
            }),
          );
      }
    },
    onSuccess: (clearance) => {
      client.setQueryData(clearanceQuery(subject).queryKey, clearance);
      recall();
    },
  });
  return { clear };
}
