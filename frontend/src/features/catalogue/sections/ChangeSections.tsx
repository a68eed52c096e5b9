import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type ReactNode, useId, useState } from "react";
import { api, type Schemas, take } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { Sheet } from "../../../ui/Sheet";
import { counted } from "../../../ui/text";
import { UserNameField } from "../../../ui/UserNameField";
import { AffectedSections } from "../../exchange/AffectedSections";
import { TableTold } from "../../exchange/TableTold";
import { MeetingFields } from "./MeetingFields";
import { ReservedFields } from "./ReservedFields";
import { changeOf, draftOf, type SectionDraft } from "./sections";

type Section = Schemas["OfficeSectionResponse"];
type Props = {
  term: string;
  sections: Section[];
  campuses: Record<string, string>;
  onClose: (isDone: boolean) => void;
};

/** Changing one section or many: first whom it affects, then the change. */
export function ChangeSections({ term, sections, campuses, onClose }: Props) {
  const client = useQueryClient();
  const announce = useAnnounce();
  const [draft, setDraft] = useState<SectionDraft>(() => draftOf(sections));
  const [single] = sections.length === 1 ? sections : [];
  const change = changeOf(sections, draft);
  const send = useMutation({
    mutationFn: (body: Schemas["SectionsChange"]) =>
      take(
        api.POST("/api/office/terms/{term}/sections/changes", {
          params: { path: { term } },
          body,
        }),
      ),
    onSuccess: ({ report }) => {
      if (!report.is_done) return;
      client.invalidateQueries({ queryKey: ["office", term] });
      announce(`${counted(sections.length, "section is", "sections are")} changed.`);
      onClose(true);
    },
  });
  const set = (part: Partial<SectionDraft>) => {
    setDraft({ ...draft, ...part });
    send.reset();
  };
  const look = (event: FormEvent) => {
    event.preventDefault();
    if (change) send.mutate({ ...change, trial: true, expected: "" });
  };
  const told = send.data;
  const title = single ? `${single.name} ${single.number}` : `${sections.length} sections`;
  return (
    <Sheet open onClose={() => onClose(false)} title={title}>
      <form className="space-y-4" onSubmit={look}>
        <Fields draft={draft} single={single} sections={sections} campuses={campuses} set={set} />
        {send.error && <ProblemNotice problem={send.error} />}
        {told && <Told told={told} />}
        <div className="flex gap-3">
          {told && change && told.report.mistakes_in_all === 0 && !told.report.changes_nothing ? (
            <Button
              look="main"
              disabled={send.isPending}
              onClick={() => send.mutate({ ...change, trial: false, expected: told.report.digest })}
            >
              {send.isPending ? "Changing it…" : "Change it"}
            </Button>
          ) : (
            <Button look="main" type="submit" disabled={!change || send.isPending}>
              {send.isPending ? "Checking…" : "Preview impact"}
            </Button>
          )}
          <Button look="quiet" onClick={() => onClose(false)}>
            Leave it
          </Button>
        </div>
      </form>
    </Sheet>
  );
}

type FieldsProps = {
  draft: SectionDraft;
  single: Section | undefined;
  sections: Section[];
  campuses: Record<string, string>;
  set: (part: Partial<SectionDraft>) => void;
};

function Fields({ draft, single, sections, campuses, set }: FieldsProps) {
  const id = useId();
  const stays = !single;
  return (
    <>
      {!single && (
        <p className="max-h-16 overflow-y-auto text-[13px] text-soft">
          {sections.map(({ name, number }) => `${name} ${number}`).join(", ")}
        </p>
      )}
      <div className="grid grid-cols-2 gap-3">
        <Field
          id={`${id}-limit`}
          label={single ? `Seats (${single.taken} taken)` : "Seats: +2, −2, or one number"}
        >
          <input
            id={`${id}-limit`}
            className={INPUT}
            inputMode="numeric"
            maxLength={7}
            placeholder={single ? "" : "as they are"}
            value={draft.limit}
            onChange={(event) => set({ limit: event.target.value.replace("−", "-") })}
          />
        </Field>
        <Field id={`${id}-waiting`} label="May wait">
          <input
            id={`${id}-waiting`}
            className={INPUT}
            inputMode="numeric"
            maxLength={5}
            placeholder={single ? "" : "as they are"}
            value={draft.waitlistLimit}
            onChange={(event) => set({ waitlistLimit: event.target.value })}
          />
        </Field>
        <Choice
          label="When a seat opens"
          stays={stays}
          value={draft.waitlistWay}
          options={[
            ["offer", "offer it"],
            ["automatic", "register automatically"],
          ]}
          onChange={(waitlistWay) => set({ waitlistWay })}
        />
        <Choice
          label="Instructor permission"
          stays={stays}
          value={draft.consent}
          options={[
            ["no", "not required"],
            ["yes", "required"],
          ]}
          onChange={(consent) => set({ consent })}
        />
        <Choice
          label="Status"
          stays={stays}
          value={draft.takesPlace}
          options={[
            ["yes", "active"],
            ["no", "canceled"],
          ]}
          onChange={(takesPlace) => set({ takesPlace })}
        />
      </div>
      {draft.meetings.map((meeting, index) => (
        <MeetingFields
          // biome-ignore lint/suspicious/noArrayIndexKey: which meeting it is, is its place
          key={index}
          title={draft.meetings.length > 1 ? `Meeting ${index + 1}` : "When and where"}
          meeting={meeting}
          campuses={campuses}
          onChange={(now) =>
            set({ meetings: draft.meetings.map((one, place) => (place === index ? now : one)) })
          }
        />
      ))}
      {single && (
        <ReservedFields parts={draft.reserved} onChange={(reserved) => set({ reserved })} />
      )}
      {single && (
        <Field id={`${id}-notes`} label="Notes, for whoever looks at it">
          <textarea
            id={`${id}-notes`}
            className={INPUT}
            rows={2}
            maxLength={2000}
            value={draft.notes}
            onChange={(event) => set({ notes: event.target.value })}
          />
        </Field>
      )}
      <div className="grid grid-cols-2 items-start gap-3">
        <UserNameField
          label="Taught by (user name)"
          value={draft.teacher}
          onChange={(teacher) => set({ teacher })}
        />
        {single && single.teachers.length > 0 && (
          <Field id={`${id}-old`} label="instead of">
            <select
              id={`${id}-old`}
              className={INPUT}
              value={draft.replaces}
              onChange={(event) => set({ replaces: event.target.value })}
            >
              {single.teachers.map(({ username, full_name }) => (
                <option key={username} value={username}>
                  {full_name}
                </option>
              ))}
              <option value="">nobody: beside them</option>
            </select>
          </Field>
        )}
      </div>
    </>
  );
}

type ChoiceProps<Value extends string> = {
  label: string;
  /** Whether it may stay as it is, different for each. */
  stays: boolean;
  value: Value | "stays";
  options: [Value, string][];
  onChange: (value: Value | "stays") => void;
};

function Choice<Value extends string>(props: ChoiceProps<Value>): ReactNode {
  const id = useId();
  const { label, stays, value, options, onChange } = props;
  return (
    <Field id={id} label={label}>
      <select
        id={id}
        className={INPUT}
        value={value}
        onChange={(event) => onChange(event.target.value as Value | "stays")}
      >
        {stays && <option value="stays">as it is</option>}
        {options.map(([option, name]) => (
          <option key={option} value={option}>
            {name}
          </option>
        ))}
      </select>
    </Field>
  );
}

/** What a change does and whom it affects, or what is wrong with it. */
function Told({ told: { report, linked_sections: linked } }: { told: Schemas["SectionsReport"] }) {
  if (report.mistakes_in_all > 0)
    return (
      <Notice tone="stop">
        <ul>
          {report.mistakes.map(({ table, line, column, value, problem, guess }) => (
            <li key={`${table}${line}${column}${problem}`}>
              {[column.replaceAll("_", " "), value].filter(Boolean).join(" ")} {problem}
              {guess && `; ${guess}?`}
            </li>
          ))}
        </ul>
      </Notice>
    );
  if (report.changes_nothing)
    return <Notice tone="note">{report.is_done ? "Done." : "It is so already."}</Notice>;
  return (
    <div data-testid="told">
      {report.has_moved && (
        <Notice tone="warning">
          Something has changed since you looked; this is what it would do now.
        </Notice>
      )}
      {report.affected.length > 0 ? (
        <AffectedSections affected={report.affected} />
      ) : (
        <Notice tone="note">
          Nobody’s week changes by this; pages that are open follow at once.
        </Notice>
      )}
      {report.tables
        .filter(({ changed }) => changed > 0)
        .map((table) => (
          <TableTold key={table.name} table={table} />
        ))}
      {linked.length > 0 && (
        <Notice tone="warning">These go with it, and stay: {linked.join(", ")}.</Notice>
      )}
      {report.affected.length > 0 && (
        <p className="mt-2 text-[13px] text-soft">
          Those registered are told, those who wait are told when their place ends.
        </p>
      )}
    </div>
  );
}
