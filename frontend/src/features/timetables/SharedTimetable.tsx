import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { sharedTimetableQuery } from "../../api/timetableQueries";
import { Notice } from "../../ui/Notice";
import { shortMoment } from "../../ui/text";
import { ShownByLink } from "../registration/schedule/ShownByLink";
import { TermSheet } from "../registration/schedule/TermSheet";

/** A timetable that a student thinks of, with what has changed since it was kept. */
export function SharedTimetable({ college }: { college: string }) {
  const { token = "" } = useParams();
  return (
    <ShownByLink college={college} what="timetable" found={useQuery(sharedTimetableQuery(token))}>
      {({ name, student, term, ends_at, changed, sections }) => (
        <>
          <h1 className="text-[24px]">
            {name}, {term.name}
          </h1>
          <p className="mb-2 text-soft">
            A timetable that {student} thinks of; nothing of it need be registered. Shown to you by
            a link, until {shortMoment(new Date(ends_at), term.zone)}.
          </p>
          {changed.map((text) => (
            <Notice key={text} tone="warning">
              {text}
            </Notice>
          ))}
          <TermSheet sections={sections} term={term} />
        </>
      )}
    </ShownByLink>
  );
}
