import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";
import { sharedQuery } from "../../api/queries";
import { ProblemNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Page";
import { shortMoment } from "../../ui/text";
import { TermSheet } from "./TermSheet";

/** A week that its student has shown to somebody by a link: to read, nothing more. */
export function SharedPage({ college }: { college: string }) {
  const { token = "" } = useParams();
  const week = useQuery(sharedQuery(token));
  useEffect(() => {
    document.title = "A week · Gremba";
  }, []);
  return (
    <main className="mx-auto max-w-[900px] p-5">
      <p className="mb-5 flex items-baseline gap-3 text-soft">
        <span className="font-serif text-[21px] font-semibold text-ink">Gremba</span> {college}
      </p>
      {week.isPending && <Reading what="the week" />}
      {week.isError && (
        <>
          <h1 className="mb-3 text-[24px]">Nothing to show</h1>
          <ProblemNotice problem={week.error} />
        </>
      )}
      {week.data && (
        <>
          <h1 className="text-[24px]">
            {week.data.student}, {week.data.term.name}
          </h1>
          <p className="text-soft">
            Shown to you by a link, until{" "}
            {shortMoment(new Date(week.data.expires_at), week.data.term.zone)}. What is registered
            now; nothing can be changed here.
          </p>
          <TermSheet sections={week.data.registered} term={week.data.term} />
        </>
      )}
    </main>
  );
}
