import { type FormEvent, useId, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { INPUT } from "../../../ui/Field";
import { ProblemNotice } from "../../../ui/Notice";
import { Tick, Ticks } from "../../../ui/Ticks";
import { listed } from "../../../ui/text";
import { useTermChanges } from "./useTermChanges";

type Setting = Schemas["SettingResponse"];
type Value = Setting["value"];

/** What the college has decided for the term, each with what it does. */
export function Decided({ term }: { term: Schemas["PreparedTerm"] }) {
  return (
    <section className="mt-9" aria-labelledby="decided">
      <h2 id="decided" className="text-[20px]">
        What is decided
      </h2>
      <ul className="mt-2 border-t border-ink">
        {term.settings.map((setting) => (
          <SettingLine key={setting.key} setting={setting} term={term.code} />
        ))}
        {term.documents.map(({ key, title, says }) => (
          <li key={key} className="flex flex-wrap gap-x-4 border-b border-hair py-2">
            <div className="min-w-0 flex-1 basis-64">
              <p className="font-semibold">{title}</p>
              <p className="text-[13px] text-soft">{says}</p>
            </div>
            <Link className="link self-center text-[13px]" to={`/office/${term.code}/folder`}>
              By a folder<span className="sr-only">: {title}</span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}

function SettingLine({ setting, term }: { setting: Setting; term: string }) {
  const [edits, setEdits] = useState(false);
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b border-hair py-2">
      <div className="min-w-0 flex-1 basis-64">
        <p className="font-semibold">{setting.title}</p>
        <p className="text-[13px] text-soft">{setting.does}</p>
      </div>
      {edits ? (
        <SettingForm setting={setting} term={term} onDone={() => setEdits(false)} />
      ) : (
        <>
          <p className="max-w-[340px] text-right">{shown(setting)}</p>
          <Button look="link" className="text-[13px]" onClick={() => setEdits(true)}>
            Change<span className="sr-only"> {setting.title}</span>
          </Button>
        </>
      )}
    </li>
  );
}

function shown({ value, unit }: Setting): string {
  if (typeof value === "boolean") return value ? "Yes" : "No";
  if (Array.isArray(value)) return value.length > 0 ? listed(value) : "Nothing";
  return [value, unit].filter((part) => part !== "").join(" ");
}

type FormProps = { setting: Setting; term: string; onDone: () => void };

function SettingForm({ setting, term, onDone }: FormProps) {
  const announce = useAnnounce();
  const { change } = useTermChanges(term);
  const [value, setValue] = useState<Value>(setting.value);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change.mutate(
      { key: setting.key, value },
      {
        onSuccess: () => {
          announce(`${setting.title} is changed.`);
          onDone();
        },
      },
    );
  };
  return (
    <form className="min-w-0" onSubmit={submit}>
      <ValueField setting={setting} value={value} onChange={setValue} />
      {change.error && (
        <div className="mt-2 max-w-[340px]">
          <ProblemNotice problem={change.error} />
        </div>
      )}
      <div className="mt-2 flex gap-2">
        <Button type="submit" disabled={change.isPending}>
          Set it
        </Button>
        <Button look="quiet" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  );
}

type ValueProps = { setting: Setting; value: Value; onChange: (value: Value) => void };

function ValueField({ setting, value, onChange }: ValueProps) {
  const id = useId();
  if (Array.isArray(value))
    return (
      <fieldset>
        <legend className="sr-only">{setting.title}</legend>
        <Ticks
          className="grid max-w-[340px] grid-cols-2 gap-x-4"
          among={setting.among.map((one) => [one, one])}
          chosen={value}
          onChange={onChange}
        />
      </fieldset>
    );
  if (typeof value === "boolean")
    return (
      <Tick checked={value} onChange={onChange}>
        {setting.title}
      </Tick>
    );
  if (typeof value === "number")
    return (
      <span className="flex items-center gap-2">
        <label htmlFor={id} className="sr-only">
          {setting.title}
        </label>
        <input
          id={id}
          className={`${INPUT} w-24`}
          type="number"
          required
          min={setting.least}
          max={setting.most}
          step={setting.is_whole ? 1 : 0.1}
          value={Number.isNaN(value) ? "" : value}
          onChange={(event) => onChange(event.target.valueAsNumber)}
        />
        {setting.unit}
      </span>
    );
  return (
    <>
      <label htmlFor={id} className="sr-only">
        {setting.title}
      </label>
      <input
        id={id}
        className={`${INPUT} w-72`}
        required
        maxLength={setting.most}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </>
  );
}
