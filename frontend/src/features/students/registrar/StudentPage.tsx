import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { officeStudentQuery } from "../../../api/registrarQueries";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { credits, dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OfficeTabs } from "../../office/OfficeTabs";
import { Exceptions } from "./Exceptions";
import { StudentHolds } from "./StudentHolds";

/** One student: how they stand, what stops them, and what was done for or to them. */
export function StudentPage({ session }: { session: SignedIn }) {
  const { term = "", id = "" } = useParams();
  const found = useQuery(officeStudentQuery(term, /^\d{1,9}$/.test(id) ? Number(id) : 0));
  return (
    <Page title={found.data?.full_name ?? "Student"} aside={<OfficeTabs of="registrar" />}>
      {found.isPending && <Reading what="the student" />}
      {found.isError && (
        <div className="mt-4">
          <ProblemNotice problem={found.error} />
        </div>
      )}
      {found.data && <Student student={found.data} term={term} session={session} />}
    </Page>
  );
}

type Props = { student: Schemas["OfficeStudent"]; term: string; session: SignedIn };

function Student({ student, term, session }: Props) {
  return (
    <>
      <div className="mt-3 flex flex-wrap items-baseline gap-x-6 gap-y-1 border-t border-ink pt-3">
        <p className="min-w-0 flex-1 text-soft">
          <span className="number text-ink">{student.username}</span>, {student.program}
          {student.cohort && `, ${student.cohort}`}
        </p>
        {student.is_expected && (
          <Link className="link" to={`/office/students/${student.id}/${term}/schedule`}>
            See and act for them
          </Link>
        )}
      </div>
      {student.is_expected ? (
        <p className="mt-2">
          Standing {student.standing}, {credits(student.credits_earned)} earned; registered for{" "}
          {credits(student.credits)} of {student.credit_limit}
          {student.own_limit !== null && " (a limit of their own)"}
          {student.waiting > 0 && `, ${student.waiting} on waitlists`}.
          {student.registered.length > 0 && (
            <span className="block text-[13px] text-soft">{student.registered.join(", ")}</span>
          )}
        </p>
      ) : (
        <p className="mt-2 text-ochre">Not expected in this term.</p>
      )}
      <div className="mt-6 grid gap-x-10 gap-y-8 lg:grid-cols-2">
        <StudentHolds student={student} term={term} session={session} />
        {student.is_expected && <Exceptions student={student} term={term} session={session} />}
      </div>
      <section className="mt-9" aria-labelledby="events">
        <h2 id="events" className="text-[20px]">
          What offices did
        </h2>
        <ul className="mt-2 border-t border-ink text-[13px]">
          {student.events.map((event) => (
            <li
              key={`${event.at}${event.what}${event.detail}`}
              className="flex flex-wrap gap-x-4 border-b border-hair py-1.5"
            >
              <span className="w-32 text-soft">{dayAndTime(new Date(event.at), session.zone)}</span>
              <span className="w-40">{event.person}</span>
              <span className="min-w-0 flex-1">
                <b className="font-semibold">{event.what}</b> {event.detail}
              </span>
            </li>
          ))}
        </ul>
        {student.events.length === 0 && <p className="py-2 text-soft">Nothing yet.</p>}
      </section>
    </>
  );
}
