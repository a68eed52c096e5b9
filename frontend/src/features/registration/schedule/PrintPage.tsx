import { useQuery } from "@tanstack/react-query";
import { cartQuery, termQuery, weekQuery } from "../../../api/queries";
import { Paper } from "../../../ui/Paper";
import { dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { TermSheet } from "./TermSheet";

/** The registered week and list on one page of paper. */
export function PrintPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const term = useQuery(termQuery(subject.term));
  const week = useQuery(weekQuery(subject));
  const cart = useQuery(cartQuery(subject));
  const isThere = term.data && week.data && cart.data;
  return (
    <Paper
      tab={`Week, ${term.data?.name ?? ""}`}
      back={{ to: `${subject.base}/schedule`, name: "Back to the week" }}
      problem={term.error ?? week.error ?? cart.error}
      heading={isThere ? `${cart.data.student}, ${term.data.name}` : ""}
      from={`${session.college}, as of ${dayAndTime(new Date(session.now), session.zone)}`}
      reading="your week"
    >
      {isThere && (
        <TermSheet
          sections={week.data.entries.filter((e) => e.registered).map((e) => e.section)}
          term={term.data}
        />
      )}
    </Paper>
  );
}
