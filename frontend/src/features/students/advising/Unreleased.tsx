import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Tick } from "../../../ui/Ticks";
import { counted, shortMoment } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { useAdvising } from "../subject/useAdvising";

type Props = { students: Schemas["AdviseeResponse"][]; session: SignedIn; term: string };

/** So many are shown at first, those with the nearest window. */
const FIRST = 12;

/** Those who wait for a release with the window open or near; several are released at once. */
export function Unreleased({ students, session, term }: Props) {
  const announce = useAnnounce();
  const { releaseMany } = useAdvising(term);
  const [picked, setPicked] = useState<Set<number>>(new Set());
  const [showsAll, setShowsAll] = useState(false);
  const chosen = students.filter(({ id }) => picked.has(id));
  const shown = showsAll ? students : students.slice(0, FIRST);
  const isAll = chosen.length === students.length;
  const toggle = (id: number) =>
    setPicked((now) => {
      const next = new Set(now);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const release = () =>
    releaseMany.mutate(
      chosen.map(({ id }) => id),
      {
        onSuccess: ({ released }) => {
          announce(`${released} released.`);
          setPicked(new Set());
        },
      },
    );
  return (
    <>
      <div className="mt-4 flex flex-wrap items-center justify-between gap-x-4 gap-y-1">
        <h3 className="font-sans text-[14px] font-semibold">
          {counted(students.length, "student is", "students are")} not released, and the window is
          open or near
        </h3>
        <Tick
          className="ml-auto text-[13px]"
          checked={isAll}
          onChange={() => setPicked(new Set(isAll ? [] : students.map(({ id }) => id)))}
        >
          All {students.length}
        </Tick>
        <Button
          look="main"
          className="px-4 py-1"
          disabled={chosen.length === 0 || releaseMany.isPending}
          onClick={release}
        >
          {chosen.length === 0 ? "Choose whom to release" : `Release ${chosen.length}`}
        </Button>
      </div>
      {releaseMany.isError && <ProblemNotice problem={releaseMany.error} />}
      <ul className="mt-1 grid border-t border-hair sm:grid-cols-2 sm:gap-x-8">
        {shown.map((student) => (
          <li
            key={student.id}
            className="flex min-h-[36px] items-center gap-2.5 border-b border-hair py-1 text-[13px]"
          >
            <input
              type="checkbox"
              className="size-4 shrink-0 accent-pine"
              aria-label={`Release ${student.full_name}`}
              checked={picked.has(student.id)}
              onChange={() => toggle(student.id)}
            />
            <Link className="link font-semibold" to={`/advising/${student.id}/${term}/clearance`}>
              {student.full_name}
            </Link>
            <span className="min-w-0 flex-1 truncate text-soft">
              {student.cohort}
              {student.standing === "probation" && ", on probation"}
            </span>
            <span className="whitespace-nowrap text-soft">
              {student.window_opens_at &&
                shortMoment(new Date(student.window_opens_at), session.zone)}
            </span>
          </li>
        ))}
      </ul>
      {shown.length < students.length && (
        <Button look="link" className="mt-1.5 py-1" onClick={() => setShowsAll(true)}>
          Show all {students.length}
        </Button>
      )}
    </>
  );
}
