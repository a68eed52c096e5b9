import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, take } from "../../../api/client";
import { academicPlanQuery, pathOf } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { FileInput } from "../../../ui/FileInput";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { counted, dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { type PageSubject, usePageSubject } from "../subject/usePageSubject";
import { lineName, type Plan, type PlanLine } from "./agreed";

type Written = Schemas["PlanLineSchema"];

/** The plan agreed with the advisor, term by term: by whom and when, and what has become of it. */
export function PlanPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const plan = useQuery(academicPlanQuery(subject));
  // The plan is between student and advisor; the registrar reads it.
  const isTheirs = session.person.role !== "registrar";
  const [isWriting, setIsWriting] = useState(false);
  return (
    <Page
      title="Plan"
      aside={
        <Link className="link" to={`${subject.base}/timetables`}>
          To Timetables
        </Link>
      }
    >
      {plan.isPending && <Reading what="the plan" />}
      {plan.isError && <ProblemNotice problem={plan.error} />}
      {plan.data && (
        <>
          <Agreement plan={plan.data} session={session} subject={subject} />
          {isWriting ? (
            <Writing
              lines={plan.data.lines}
              session={session}
              subject={subject}
              onDone={() => setIsWriting(false)}
            />
          ) : (
            <>
              <Lines lines={plan.data.lines} session={session} />
              {isTheirs && (
                <p className="mt-3">
                  <Button onClick={() => setIsWriting(true)}>
                    {plan.data.lines.length ? "Write another version" : "Write a plan"}
                  </Button>
                </p>
              )}
            </>
          )}
          {isTheirs && <Files subject={subject} hasLines={plan.data.lines.length > 0} />}
          <Versions plan={plan.data} session={session} />
        </>
      )}
    </Page>
  );
}

type PartProps = { plan: Plan; session: SignedIn; subject: PageSubject };

function Agreement({ plan, session, subject }: PartProps) {
  const client = useQueryClient();
  const [latest] = plan.versions;
  const agree = useMutation({
    mutationFn: (version: number) =>
      take(
        api.POST("/api/terms/{term}/academic-plan/agreement", {
          params: pathOf(subject),
          body: { version },
        }),
      ),
    onSuccess: (now) => client.setQueryData(academicPlanQuery(subject).queryKey, now),
    onError: () => client.invalidateQueries({ queryKey: academicPlanQuery(subject).queryKey }),
  });
  if (!latest)
    return (
      <p className="mt-2 text-soft">
        There is no plan yet. You and your advisor agree here on what is to be taken, term by term;
        in Timetables it is taken over with one press.
      </p>
    );
  const isAdvisor = subject.student !== undefined;
  const mine = isAdvisor ? latest.advisor_agreed_at : latest.student_agreed_at;
  const at = (moment: string) => dayAndTime(new Date(moment), session.zone);
  const who = latest.advisor || "the advisor";
  return (
    <div className="mt-2 text-[13px]">
      <p>
        Version {latest.version}, written by {latest.written_by} on {at(latest.written_at)}.{" "}
        {plan.is_agreed ? (
          <b className="font-semibold text-pine">Agreed by both.</b>
        ) : (
          <b className="font-semibold text-ochre">
            {latest.student_agreed_at
              ? `${who} has not agreed yet.`
              : "The student has not agreed yet."}
          </b>
        )}
      </p>
      {!mine && session.person.role !== "registrar" && (
        <Button
          className="mt-2"
          disabled={agree.isPending}
          onClick={() => agree.mutate(latest.version)}
        >
          Agree to it
        </Button>
      )}
      {agree.error && <ProblemNotice problem={agree.error} />}
    </div>
  );
}

const STATES: Record<NonNullable<PlanLine["state"]>, string> = {
  registered: "registered",
  waiting: "on a waitlist",
  "in cart": "in the cart",
  passed: "passed before",
  "not yet": "not yet",
};

function Lines({ lines, session }: { lines: PlanLine[]; session: SignedIn }) {
  const terms = [...new Set(lines.map(({ term }) => term))];
  const nameOf = (code: string) => session.terms.find((term) => term.code === code)?.name ?? code;
  return terms.map((term) => (
    <section key={term} className="mt-4">
      <h2 className="border-b border-ink pb-1 text-[18px]">{nameOf(term)}</h2>
      <ul>
        {lines
          .filter((line) => line.term === term)
          .map((line) => (
            <li
              key={`${line.courses.join()}${line.section}`}
              className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-4 border-b border-hair py-2"
            >
              <span>
                <b className="font-semibold">{lineName(line)}</b>{" "}
                {line.courses.length === 1 && line.titles[0]}
                {line.section && <span className="number ml-2">{line.section}</span>}
              </span>
              <span
                className={
                  line.state === "registered"
                    ? "font-semibold text-pine"
                    : line.state === "waiting"
                      ? "text-woad"
                      : "text-soft"
                }
              >
                {line.state && STATES[line.state]}
              </span>
              {line.note && <span className="col-span-2 text-[13px] text-soft">{line.note}</span>}
            </li>
          ))}
      </ul>
    </section>
  ));
}

type WritingProps = {
  lines: PlanLine[];
  session: SignedIn;
  subject: PageSubject;
  onDone: () => void;
};

const asText = ({ courses }: Written) => courses.join(" | ");

/** A version as a table to write in: a line a course, several with a stroke between them. */
function Writing({ lines, session, subject, onDone }: WritingProps) {
  const client = useQueryClient();
  const id = useId();
  const empty = (): Written & { text: string } => ({
    term: subject.term,
    courses: [],
    count: 1,
    section: "",
    note: "",
    text: "",
  });
  const [rows, setRows] = useState(() =>
    lines.length ? lines.map((line) => ({ ...line, text: asText(line) })) : [empty()],
  );
  const write = useMutation({
    mutationFn: (filled: typeof rows) => {
      const written = filled.map(({ term, text, count, section, note }) => ({
        term,
        courses: text
          .split("|")
          .map((key) => key.trim().toUpperCase())
          .filter(Boolean),
        count,
        section: section.trim(),
        note: note.trim(),
      }));
      return take(
        api.PUT("/api/terms/{term}/academic-plan", {
          params: pathOf(subject),
          body: { lines: written },
        }),
      );
    },
    onSuccess: (now) => {
      client.setQueryData(academicPlanQuery(subject).queryKey, { ...now, mistakes: [], read: 0 });
      if (now.mistakes.length === 0) onDone();
    },
  });
  const set = (place: number, change: Partial<Written & { text: string }>) =>
    setRows(rows.map((row, n) => (n === place ? { ...row, ...change } : row)));
  const mistakes = write.data?.mistakes ?? [];
  return (
    <form
      className="mt-4 space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        // Mistakes are told by line: what is sent are the lines that are seen.
        const filled = rows.filter(({ text }) => text.trim());
        setRows(filled.length ? filled : [empty()]);
        write.mutate(filled);
      }}
    >
      {rows.map((row, place) => (
        <fieldset
          // biome-ignore lint/suspicious/noArrayIndexKey: a line is known by where it stands
          key={place}
          className="grid gap-2 border-b border-hair pb-3 sm:grid-cols-[150px_minmax(0,1fr)_90px_minmax(0,1fr)_auto]"
        >
          <legend className="sr-only">Line {place + 1}</legend>
          <Field id={`${id}term${place}`} label="Term">
            <select
              id={`${id}term${place}`}
              className={INPUT}
              value={row.term}
              onChange={({ target }) => set(place, { term: target.value })}
            >
              {session.terms.map(({ code, name }) => (
                <option key={code} value={code}>
                  {name}
                </option>
              ))}
            </select>
          </Field>
          <Field id={`${id}courses${place}`} label="Course, or several with | between">
            <input
              id={`${id}courses${place}`}
              className={INPUT}
              maxLength={200}
              autoComplete="off"
              placeholder="HIST 130 | MAPS 130"
              value={row.text}
              onChange={({ target }) => set(place, { text: target.value })}
            />
          </Field>
          <Field id={`${id}section${place}`} label="Section">
            <input
              id={`${id}section${place}`}
              className={`${INPUT} number`}
              maxLength={5}
              autoComplete="off"
              value={row.section}
              onChange={({ target }) => set(place, { section: target.value })}
            />
          </Field>
          <Field id={`${id}note${place}`} label="Note">
            <input
              id={`${id}note${place}`}
              className={INPUT}
              maxLength={300}
              autoComplete="off"
              value={row.note}
              onChange={({ target }) => set(place, { note: target.value })}
            />
          </Field>
          <Button
            look="quiet"
            className="self-end"
            onClick={() => {
              setRows(rows.filter((_, n) => n !== place));
              write.reset();
            }}
          >
            Leave out<span className="sr-only"> line {place + 1}</span>
          </Button>
          {mistakes
            .filter(({ line }) => line === place + 1)
            .map(({ text }) => (
              <p key={text} role="alert" className="text-[13px] text-madder sm:col-span-5">
                {text}
              </p>
            ))}
        </fieldset>
      ))}
      <div className="flex gap-3">
        <Button onClick={() => setRows([...rows, empty()])}>Another line</Button>
        <Button type="submit" disabled={write.isPending}>
          Write this version
        </Button>
        <Button look="quiet" onClick={onDone}>
          Leave it as it was
        </Button>
      </div>
      {write.error && <ProblemNotice problem={write.error} />}
    </form>
  );
}

type FilesProps = { subject: PageSubject; hasLines: boolean };

/** The plan as files, both ways; every mistake is told by its line, and with any nothing is written. */
function Files({ subject, hasLines }: FilesProps) {
  const client = useQueryClient();
  const id = useId();
  const read = useMutation({
    mutationFn: async (file: File) => {
      const form = file.name.toLowerCase().endsWith(".json") ? ("json" as const) : ("csv" as const);
      return take(
        api.POST("/api/terms/{term}/academic-plan/file", {
          params: pathOf(subject),
          body: { form, text: await file.text() },
        }),
      );
    },
    onSuccess: (now) => client.setQueryData(academicPlanQuery(subject).queryKey, now),
  });
  const mistakes = read.data?.mistakes ?? [];
  const whose = subject.student ? `&student=${subject.student}` : "";
  const file = (form: string) =>
    `/api/terms/${subject.term}/academic-plan/file?form=${form}${whose}`;
  return (
    <section className="mt-6 text-[13px]">
      <h2 className="text-[18px]">As a file</h2>
      {hasLines && (
        <p className="mt-1">
          <a className="link" href={file("csv")} download>
            Table file
          </a>{" "}
          or{" "}
          <a className="link" href={file("json")} download>
            JSON
          </a>
        </p>
      )}
      <label htmlFor={id} className="mt-2 block">
        Write a version from a file, .csv or .json
      </label>
      <div className="mt-1">
        <FileInput
          id={id}
          accept=".csv,.json,text/csv,application/json"
          isBusy={read.isPending}
          onFile={read.mutate}
        />
      </div>
      {read.error && <ProblemNotice problem={read.error} />}
      {mistakes.length > 0 && (
        <Notice tone="stop">
          <strong className="font-semibold">
            Nothing was written: {counted(mistakes.length, "line is", "lines are")} not right.
          </strong>
          <ul>
            {mistakes.slice(0, 20).map(({ line, text }) => (
              <li key={`${line}${text}`}>
                Line {line}: {text}
              </li>
            ))}
          </ul>
        </Notice>
      )}
      {read.isSuccess && mistakes.length === 0 && (
        <Notice tone="note">
          {counted(read.data.read, "line was", "lines were")} read, as a new version.
        </Notice>
      )}
    </section>
  );
}

function Versions({ plan, session }: { plan: Plan; session: SignedIn }) {
  if (plan.versions.length < 2) return null;
  return (
    <section className="mt-6 text-[13px]">
      <h2 className="text-[18px]">Versions before</h2>
      <ul>
        {plan.versions.slice(1).map((one) => (
          <li key={one.version} className="border-b border-hair py-1">
            Version {one.version}, {one.written_by},{" "}
            {dayAndTime(new Date(one.written_at), session.zone)}
            {one.student_agreed_at && one.advisor_agreed_at ? ", agreed by both" : ""}
          </li>
        ))}
      </ul>
    </section>
  );
}
