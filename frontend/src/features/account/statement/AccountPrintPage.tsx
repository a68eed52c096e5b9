import { useQuery } from "@tanstack/react-query";
import { accountQuery } from "../../../api/accountQueries";
import { Paper } from "../../../ui/Paper";
import { dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { StatementTable } from "./StatementTable";

/** The statement on paper. */
export function AccountPrintPage({ session }: { session: SignedIn }) {
  const { term, base } = usePageSubject();
  const { data, error } = useQuery(accountQuery(term));
  return (
    <Paper
      tab="Statement"
      back={{ to: `${base}/account`, name: "Back to the account" }}
      problem={error}
      heading={data ? `${session.person.full_name}, ${data.term}` : ""}
      from={data ? `${session.college}, as of ${dayAndTime(new Date(data.now), session.zone)}` : ""}
      reading="your statement"
    >
      {data && <StatementTable account={data} />}
    </Paper>
  );
}
