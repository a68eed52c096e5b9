/** Sections starred; kept on the server, so that they are there on every device. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../../api/client";
import { pathOf, starsQuery } from "../../../api/queries";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { useMine } from "./useMine";

export function useStars() {
  const subject = usePageSubject();
  const { has } = useMine();
  const client = useQueryClient();
  const query = starsQuery(subject);
  const found = useQuery({ ...query, enabled: has });
  const stars = found.data?.numbers ?? [];
  const change = useMutation({
    mutationFn: (number: string) => {
      const { path, query } = pathOf(subject);
      const params = { path: { ...path, number }, query };
      const address = "/api/terms/{term}/stars/{number}";
      return take(
        stars.includes(number) ? api.DELETE(address, { params }) : api.PUT(address, { params }),
      );
    },
    onSuccess: (now) => client.setQueryData(query.queryKey, now),
  });
  return { stars, toggle: change.mutate, isPending: change.isPending };
}
