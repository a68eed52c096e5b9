import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { accountQuery } from "../../api/accountQueries";
import { Button } from "../../ui/Button";
import { ProblemNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Page";
import { dayAndTime } from "../../ui/text";
import type { SignedIn } from "../session/useSignedIn";
import { usePageSubject } from "../subject/usePageSubject";
import { StatementTable } from "./StatementTable";

/** The statement on paper. */
export function AccountPrintPage({ session }: { session: SignedIn }) {
  const { term, base } = usePageSubject();
  const account = useQuery(accountQuery(term));
  useEffect(() => {
    document.title = "Statement · Gremba";
  }, []);
  return (
    <main className="mx-auto max-w-[900px] p-6 print:max-w-none print:p-0">
      <div className="mb-4 flex gap-3 print:hidden">
        <Button onClick={() => window.print()}>Print</Button>
        <Link className="link self-center" to={`${base}/account`}>
          Back to the account
        </Link>
      </div>
      {account.error && <ProblemNotice problem={account.error} />}
      {account.data ? (
        <>
          <div className="flex flex-wrap items-baseline justify-between gap-4">
            <h1 className="text-[24px]">
              {session.person.full_name}, {account.data.term}
            </h1>
            <p className="text-small text-soft">
              {session.college}, as of {dayAndTime(new Date(account.data.now), session.zone)}
            </p>
          </div>
          <StatementTable account={account.data} />
        </>
      ) : (
        !account.error && <Reading what="your statement" />
      )}
    </main>
  );
}
