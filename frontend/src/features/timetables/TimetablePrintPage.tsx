import { useQuery } from "@tanstack/react-query";
import { cartQuery } from "../../api/queries";
import { timetableQuery } from "../../api/timetableQueries";
import { Paper } from "../../ui/Paper";
import { dayAndTime } from "../../ui/text";
import { useSearch } from "../../ui/useSearch";
import type { SignedIn } from "../access/session/useSignedIn";
import { TermSheet } from "../registration/schedule/TermSheet";
import { usePageSubject } from "../students/subject/usePageSubject";

/** A timetable that is only thought of, on one page of paper. */
export function TimetablePrintPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const [params] = useSearch();
  const numbers = params.get("at") ?? "";
  const found = useQuery(timetableQuery(subject.term, numbers));
  const cart = useQuery(cartQuery(subject));
  const isThere = found.data && cart.data;
  return (
    <Paper
      tab={`Timetable, ${found.data?.term.name ?? ""}`}
      back={{ to: `${subject.base}/timetables?${params}`, name: "Back to Timetables" }}
      problem={found.error ?? cart.error}
      heading={isThere ? `${cart.data.student}, ${found.data.term.name}` : numbers ? "" : "Nothing"}
      from={`${session.college}, as of ${dayAndTime(new Date(session.now), session.zone)}`}
      reading="the timetable"
    >
      {!numbers && (
        <p>There is no timetable in this address. Go back to Timetables and choose one.</p>
      )}
      {isThere && (
        <>
          <p className="text-soft">A timetable that fits. Nothing of it is registered by this.</p>
          <TermSheet sections={found.data.sections} term={found.data.term} />
        </>
      )}
    </Paper>
  );
}
