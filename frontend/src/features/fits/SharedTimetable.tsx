import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router";
import { sharedTimetableQuery } from "../../api/fitsQueries";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Page";
import { shortMoment } from "../../ui/text";
import { TermSheet } from "../week/TermSheet";

/** A timetable that a student has shown to somebody by a link: to read, nothing more. */
export function SharedTimetable({ college }: { college: string }) {
  const { token = "" } = useParams();
  const found = useQuery(sharedTimetableQuery(token));
  useEffect(() => {
    document.title = "A timetable · Gremba";
  }, []);
  return (
    <main className="mx-auto max-w-[900px] p-5">
      <p className="mb-5 flex items-baseline gap-3 text-soft">
        <span className="font-serif text-[21px] font-semibold text-ink">Gremba</span> {college}
      </p>
      {found.isPending && <Reading what="the timetable" />}
      {found.isError && (
        <>
          <h1 className="mb-3 text-[24px]">Nothing to show</h1>
          <ProblemNotice problem={found.error} />
        </>
      )}
      {found.data && (
        <>
          <h1 className="text-[24px]">
            {found.data.name}, {found.data.term.name}
          </h1>
          <p className="mb-2 text-soft">
            A timetable that {found.data.student} thinks of; nothing of it need be registered. Shown
            to you by a link, until{" "}
            {shortMoment(new Date(found.data.ends_at), found.data.term.zone)}.
          </p>
          {found.data.changed.map((text) => (
            <Notice key={text} tone="warning">
              {text}
            </Notice>
          ))}
          <TermSheet sections={found.data.sections} term={found.data.term} />
        </>
      )}
    </main>
  );
}
