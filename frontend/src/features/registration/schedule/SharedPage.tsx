import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { sharedQuery } from "../../../api/queries";
import { shortMoment } from "../../../ui/text";
import { ShownByLink } from "./ShownByLink";
import { TermSheet } from "./TermSheet";

/** The registered week of a student, as it is when it is looked at. */
export function SharedPage({ college }: { college: string }) {
  const { token = "" } = useParams();
  return (
    <ShownByLink college={college} what="week" found={useQuery(sharedQuery(token))}>
      {({ student, term, expires_at, registered }) => (
        <>
          <h1 className="text-[24px]">
            {student}, {term.name}
          </h1>
          <p className="text-soft">
            Shown to you by a link, until {shortMoment(new Date(expires_at), term.zone)}. What is
            registered now; nothing can be changed here.
          </p>
          <TermSheet sections={registered} term={term} />
        </>
      )}
    </ShownByLink>
  );
}
