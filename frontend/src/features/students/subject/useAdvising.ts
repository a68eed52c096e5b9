/** What an advisor does for their own students; afterwards all that hangs on it is read again. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../../api/client";

export function useAdvising(term: string) {
  const client = useQueryClient();
  const onSuccess = () =>
    Promise.all(
      ["advisees", "advising day", "clearance", "cart"].map((what) =>
        client.invalidateQueries({ queryKey: [what] }),
      ),
    );
  const release = useMutation({
    mutationFn: ({ student, released }: { student: number; released: boolean }) =>
      take(
        api.PUT("/api/terms/{term}/advisees/{student}/release", {
          params: { path: { term, student } },
          body: { released },
        }),
      ),
    onSuccess,
  });
  const releaseMany = useMutation({
    mutationFn: (students: number[]) =>
      take(
        api.POST("/api/terms/{term}/advisees/releases", {
          params: { path: { term } },
          body: { students },
        }),
      ),
    onSuccess,
  });
  const limit = useMutation({
    mutationFn: ({ student, credits }: { student: number; credits: number | null }) =>
      take(
        api.PUT("/api/terms/{term}/advisees/{student}/limit", {
          params: { path: { term, student } },
          body: { credits },
        }),
      ),
    onSuccess,
  });
  return { release, releaseMany, limit };
}
