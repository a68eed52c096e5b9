import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { Link, useParams } from "react-router";
import { taughtSectionQuery } from "../../../api/queries";
import { useComings } from "../../../api/stream";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { credits, shortMoment } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { LetIn } from "./LetIn";
import { PermissionCodes } from "./PermissionCodes";

/** One section: who is in it, and the permission codes given out for it. */
export function TaughtSectionPage({ session }: { session: SignedIn }) {
  const { term = "", number = "" } = useParams();
  const client = useQueryClient();
  const taught = useQuery(taughtSectionQuery(term, number));
  const readAgain = useCallback(
    () => client.invalidateQueries({ queryKey: taughtSectionQuery(term, number).queryKey }),
    [client, term, number],
  );
  useComings(term, number, readAgain);
  const back = (
    <Link className="link" to={`/teaching/${term}`}>
      All your sections
    </Link>
  );
  if (!taught.data) {
    return (
      <Page title={`Section ${number}`} aside={back}>
        {taught.isError ? (
          <div className="mt-4">
            <ProblemNotice problem={taught.error} />
          </div>
        ) : (
          <Reading what="the section" />
        )}
      </Page>
    );
  }
  const { section, roster, permission_codes, waitlist } = taught.data;
  return (
    <Page title={`${section.name} ${section.number}`} aside={back}>
      <p className="mb-5 text-soft">
        {section.title} · {section.times} · {section.taken} of {section.limit} taken
      </p>
      <LetIn term={term} number={number} />
      <PermissionCodes
        term={term}
        number={number}
        permission_codes={permission_codes}
        session={session}
      />
      <h2 className="mt-7 border-b border-ink pb-1 text-[20px]">Roster</h2>
      {roster.length === 0 && <p className="py-3 text-soft">Nobody is registered yet.</p>}
      {roster.length > 0 && (
        <table className="w-full text-[13px]">
          <thead className="sr-only">
            <tr>
              <th>Name</th>
              <th>Program</th>
              <th>Grading</th>
            </tr>
          </thead>
          <tbody>
            {roster.map((student) => (
              <tr key={student.username} className="border-b border-hair">
                <td className="py-1.5 pr-4 font-semibold">{student.full_name}</td>
                <td className="pr-4 max-sm:hidden">{student.program}</td>
                <td className="pr-4">
                  {student.earns_credits
                    ? `${credits(student.credits)}, ${student.grading}`
                    : student.grading}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {waitlist.length > 0 && (
        <>
          <h2 className="mt-7 border-b border-ink pb-1 text-[20px]">Waiting, the next first</h2>
          <ol className="text-[13px]" aria-label="Waiting, the next first">
            {waitlist.map(({ full_name, state, since, until }, index) => (
              <li
                key={full_name + since}
                className="flex items-baseline gap-4 border-b border-hair py-1.5"
              >
                <b className="flex-1 font-semibold">{full_name}</b>
                {state === "offered" && until ? (
                  <span className="text-plum">
                    offered a seat until {shortMoment(new Date(until), session.zone)}
                  </span>
                ) : (
                  <span className="text-soft">
                    {index === waitlist.findIndex((w) => w.state === "waiting") ? "next, " : ""}
                    since {shortMoment(new Date(since), session.zone)}
                  </span>
                )}
              </li>
            ))}
          </ol>
        </>
      )}
    </Page>
  );
}
