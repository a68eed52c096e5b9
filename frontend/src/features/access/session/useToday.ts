import { useQuery } from "@tanstack/react-query";
import { sessionQuery } from "../../../api/queries";
import { campusDay } from "../../../ui/text";

/** Today's date on the campus, by the clock that counts there. */
export function useToday(): string {
  const { data } = useQuery(sessionQuery);
  return data ? campusDay(new Date(data.now), data.zone) : "";
}
