import { useId, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { DayField } from "../../../ui/DayField";
import { Field, INPUT } from "../../../ui/Field";
import { HourField } from "../../../ui/HourField";
import { ProblemNotice } from "../../../ui/Notice";
import { ReasonForm } from "../../../ui/ReasonForm";
import { Ticks } from "../../../ui/Ticks";
import { clockTime, dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { useToday } from "../../access/session/useToday";
import { LIFTED } from "../../permission/requests/words";
import { useStudentChanges } from "./useStudentChanges";

type Props = { student: Schemas["OfficeStudent"]; term: string; session: SignedIn };
type Waiver = Schemas["RulesLifted"]["waives"][number];

const WAIVERS = Object.entries(LIFTED) as [Waiver, string][];

/** What is out of the common for one student: the window, the limit, rules lifted; each with its reason. */
export function Exceptions({ student, term, session }: Props) {
  const changes = useStudentChanges(term, student.id);
  const [opened, setOpened] = useState("");
  const close = () => setOpened("");
  const problem = changes.limit.error ?? changes.setWindow.error ?? changes.liftRules.error;
  return (
    <section aria-labelledby="exceptions" className="min-w-0">
      <h2 id="exceptions" className="text-[20px]">
        Window and exceptions
      </h2>
      {problem && <ProblemNotice problem={problem} />}
      <ul className="mt-2 border-t border-ink">
        {student.windows.map(({ opens_at, closes_at, was_assigned }) => (
          <li key={opens_at} className="border-b border-hair py-2">
            <div className="flex items-start gap-3">
              <p className="min-w-0 flex-1">
                {dayAndTime(new Date(opens_at), session.zone)} to{" "}
                {dayAndTime(new Date(closes_at), session.zone)}
                {was_assigned && <span className="text-soft"> (assigned)</span>}
              </p>
              {opened !== opens_at && (
                <Button onClick={() => setOpened(opens_at)}>
                  Change<span className="sr-only"> this window</span>
                </Button>
              )}
            </div>
            {opened === opens_at && (
              <WindowForm
                before={opens_at}
                closes={closes_at}
                isPending={changes.setWindow.isPending}
                onSet={(body) => changes.setWindow.mutate(body, { onSuccess: close })}
                onCancel={close}
              />
            )}
          </li>
        ))}
      </ul>
      {student.windows.length === 0 && <p className="py-2 text-soft">No window.</p>}
      {opened === "window" && (
        <WindowForm
          isPending={changes.setWindow.isPending}
          onSet={(body) => changes.setWindow.mutate(body, { onSuccess: close })}
          onCancel={close}
        />
      )}
      {opened === "limit" && (
        <LimitForm
          student={student}
          isPending={changes.limit.isPending}
          onSet={(body) => changes.limit.mutate(body, { onSuccess: close })}
          onCancel={close}
        />
      )}
      {opened === "rules" && (
        <RulesForm
          isPending={changes.liftRules.isPending}
          onSet={(body) => changes.liftRules.mutate(body, { onSuccess: close })}
          onCancel={close}
        />
      )}
      {!["window", "limit", "rules"].includes(opened) && (
        <div className="mt-3 flex flex-wrap gap-2">
          <Button onClick={() => setOpened("window")}>Another window</Button>
          <Button onClick={() => setOpened("limit")}>Another limit</Button>
          <Button onClick={() => setOpened("rules")}>Lift a rule</Button>
        </div>
      )}
    </section>
  );
}

type FormProps<Body> = { isPending: boolean; onSet: (body: Body) => void; onCancel: () => void };

type WindowProps = FormProps<Schemas["WindowForOne"]> & { before?: string; closes?: string };

function WindowForm({ before, closes, isPending, onSet, onCancel }: WindowProps) {
  const today = useToday();
  const [opensDay, setOpensDay] = useState(before?.slice(0, 10) ?? today);
  const [opensAt, setOpensAt] = useState<number | null>(minutesOf(before) ?? 8 * 60);
  const [closesDay, setClosesDay] = useState(closes?.slice(0, 10) ?? "");
  const [closesAt, setClosesAt] = useState<number | null>(minutesOf(closes) ?? 17 * 60);
  const isReady = !!opensDay && !!closesDay && opensAt !== null && closesAt !== null;
  return (
    <ReasonForm
      label="Why, as the student will read it"
      button="Set the window"
      isPending={isPending}
      isReady={isReady}
      onCancel={onCancel}
      onReason={(reason) => {
        if (opensAt === null || closesAt === null) return;
        onSet({
          before: before ?? null,
          opens_at: `${opensDay}T${clockTime(opensAt)}:00`,
          closes_at: `${closesDay}T${clockTime(closesAt)}:00`,
          reason,
        });
      }}
    >
      <div className="grid grid-cols-2 gap-3">
        <DayField label="Opens on" required today={today} value={opensDay} onChange={setOpensDay} />
        <HourField label="at" value={opensAt} onChange={setOpensAt} />
        <DayField
          label="Closes on"
          required
          today={today}
          min={opensDay || undefined}
          value={closesDay}
          onChange={setClosesDay}
        />
        <HourField label="at" value={closesAt} onChange={setClosesAt} />
      </div>
    </ReasonForm>
  );
}

/** The hour of a moment as the campus writes it. */
function minutesOf(moment: string | undefined): number | null {
  return moment ? Number(moment.slice(11, 13)) * 60 + Number(moment.slice(14, 16)) : null;
}

type LimitProps = FormProps<Schemas["LimitWanted"]> & { student: Schemas["OfficeStudent"] };

function LimitForm({ student, isPending, onSet, onCancel }: LimitProps) {
  const id = useId();
  const [text, setText] = useState(student.own_limit === null ? "" : String(student.own_limit));
  const limit = text.trim() === "" ? null : Number(text);
  return (
    <ReasonForm
      label="Why"
      button={limit === null ? "Back to the limit of the standing" : "Allow it"}
      isPending={isPending}
      isReady={limit === null || limit > 0}
      onCancel={onCancel}
      onReason={(reason) => onSet({ credits: limit, reason })}
    >
      <Field id={id} label="Credits this student may take; nothing for that of the standing">
        <input
          id={id}
          className={`${INPUT} w-28`}
          type="number"
          min={0.5}
          max={60}
          step={0.5}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </Field>
    </ReasonForm>
  );
}

function RulesForm({ isPending, onSet, onCancel }: FormProps<Schemas["RulesLifted"]>) {
  const id = useId();
  const today = useToday();
  const [number, setNumber] = useState("");
  const [waives, setWaives] = useState<Waiver[]>([]);
  const [until, setUntil] = useState("");
  return (
    <ReasonForm
      label="Why, as the student will read it"
      button="Lift it, once"
      isPending={isPending}
      isReady={/^\d{5}$/.test(number) && waives.length > 0}
      onCancel={onCancel}
      onReason={(words) =>
        onSet({ number, waives, words, until: until ? `${until}T23:59:00` : null })
      }
    >
      <div className="grid grid-cols-2 gap-3">
        <Field id={id} label="Section">
          <input
            id={id}
            className={`${INPUT} number`}
            required
            inputMode="numeric"
            maxLength={5}
            placeholder="30412"
            value={number}
            onChange={(event) => setNumber(event.target.value.trim())}
          />
        </Field>
        <DayField label="Good through" today={today} value={until} onChange={setUntil} />
      </div>
      <fieldset>
        <legend className="mb-1 text-[13px]">What is lifted</legend>
        <Ticks
          className="grid grid-cols-2 gap-x-3"
          among={WAIVERS}
          chosen={waives}
          onChange={setWaives}
        />
      </fieldset>
    </ReasonForm>
  );
}
