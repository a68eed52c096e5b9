import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../../../api/client";
import { adviseesQuery } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { SearchField } from "../../../ui/SearchField";
import { counted, credits, shortMoment } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OfficeTabs } from "../../office/OfficeTabs";
import { LimitForm } from "../subject/LimitForm";
import { useAdvising } from "../subject/useAdvising";
import { Day } from "./Day";

type Advisee = Schemas["AdviseeResponse"];

/** An advisor's own students: release, credit limit, and the way to their cart and week. */
export function AdviseesPage({ session }: { session: SignedIn }) {
  const { term = "" } = useParams();
  const [search, setSearch] = useState("");
  const students = useQuery(adviseesQuery(term, search));
  return (
    <Page title="Your students" aside={<OfficeTabs of="advisor" />}>
      <Day session={session} />
      <h2 className="text-[20px]">All of them</h2>
      <div className="mt-2 mb-4">
        <SearchField
          label="Name of a student"
          placeholder="Name of a student"
          onSearch={setSearch}
        />
      </div>
      {students.isPending && <Reading what="your students" />}
      {students.isError && !students.data && <ProblemNotice problem={students.error} />}
      {students.data?.students.length === 0 && (
        <p className="border-t border-ink py-3 text-soft">
          {search ? `None of your students is called “${search}”.` : "Nobody is advised by you."}
        </p>
      )}
      <ul className="border-t border-ink">
        {students.data?.students.map((student) => (
          <Row key={student.id} student={student} term={term} session={session} />
        ))}
      </ul>
      {students.data?.more && (
        <p className="mt-2 text-soft">There are more; type a part of the name.</p>
      )}
    </Page>
  );
}

type RowProps = { student: Advisee; term: string; session: SignedIn };

function Row({ student, term, session }: RowProps) {
  const [limiting, setLimiting] = useState(false);
  const { release, limit } = useAdvising(term);
  const problem = release.error ?? limit.error;
  return (
    <li
      className="grid items-center gap-x-4 gap-y-1 border-b border-hair py-2 md:grid-cols-[minmax(0,1.3fr)_minmax(0,1.1fr)_minmax(0,1.2fr)_170px]"
      data-testid={`advisee-${student.username}`}
    >
      <div>
        <Link className="link font-semibold" to={`/advising/${student.id}/${term}/schedule`}>
          {student.full_name}
        </Link>
        <p className="text-small text-soft">
          {student.cohort}, {student.program}
        </p>
      </div>
      <div className="text-[13px]">
        <p>
          {credits(student.credits)} registered, {student.in_cart} in the cart
        </p>
        <p className="text-small text-soft">
          {student.window_opens_at
            ? `window ${shortMoment(new Date(student.window_opens_at), session.zone)}`
            : "no window"}
        </p>
      </div>
      <div className="text-[13px]">
        <p>
          {student.released === null ? (
            "No release needed"
          ) : student.released ? (
            <b className="font-semibold text-pine">Released</b>
          ) : (
            <b className="font-semibold text-madder">Not released</b>
          )}
          {student.holds > 0 && `, ${counted(student.holds, "hold", "holds")}`}
        </p>
        <p className="text-small text-soft">
          {student.standing === "probation" ? "on probation" : "good standing"}
          {student.own_limit !== null && `, may take ${student.own_limit}`}
        </p>
      </div>
      <div className="flex justify-end gap-2">
        <Button look="quiet" aria-expanded={limiting} onClick={() => setLimiting(!limiting)}>
          Limit<span className="sr-only"> of {student.full_name}</span>
        </Button>
        {student.released !== null && (
          <Button
            look={student.released ? "quiet" : "plain"}
            disabled={release.isPending}
            onClick={() => release.mutate({ student: student.id, released: !student.released })}
          >
            {release.isPending ? "A moment…" : student.released ? "Take back" : "Release"}
            <span className="sr-only"> {student.full_name}</span>
          </Button>
        )}
      </div>
      {limiting && (
        <LimitForm
          own={student.own_limit}
          isPending={limit.isPending}
          onSet={(credits) =>
            limit.mutate({ student: student.id, credits }, { onSuccess: () => setLimiting(false) })
          }
        />
      )}
      {problem && (
        <div className="col-span-full">
          <ProblemNotice problem={problem} />
        </div>
      )}
    </li>
  );
}
