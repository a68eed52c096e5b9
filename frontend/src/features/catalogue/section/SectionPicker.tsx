import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { searchQuery, sectionQuery } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { NumberField, typedNumber } from "./NumberField";
import { type Pick, pickParam } from "./pick";
import { SeatsNow } from "./SeatMeter";
import { useMine } from "./useMine";
import { useStars } from "./useStars";
import { WeekStrip } from "./WeekStrip";

type Row = Schemas["SectionRow"];
type Props = {
  /** The section that another is picked for. */
  number: string;
  legend: string;
  /** Sections that are not offered. */
  taken: string[];
  /** How Find picks for it; without it Find is not offered. */
  inFind?: Pick;
  onPick: (number: string) => void;
  onClose: () => void;
};

/** Pick a section: of the same course, drawn over one's week; one that is starred; in Find; or by number. */
export function SectionPicker({ number, legend, taken, inFind, onPick, onClose }: Props) {
  const id = useId();
  const { term, base } = usePageSubject();
  const { against } = useMine();
  const { stars } = useStars();
  const [typed, setTyped] = useState("");
  const found = useQuery(sectionQuery(term, number, against));
  const wanted = stars.filter((one) => !taken.includes(one));
  const starred = useQuery({
    ...searchQuery(term, { against, among: wanted.join(",") }, 0),
    enabled: wanted.length > 0,
  });
  const others = (found.data?.others ?? []).filter((row) => !taken.includes(row.number));
  const known = new Set([...taken, ...others.map((row) => row.number)]);
  const alsoStarred = (starred.data?.rows ?? []).flatMap((row) =>
    row.kind === "section" && wanted.includes(row.number) && !known.has(row.number) ? [row] : [],
  );
  const chosen = typedNumber(typed);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (chosen) onPick(chosen);
  };
  return (
    <fieldset className="mt-1.5 bg-shade px-3 pt-2 pb-3 text-[13px]">
      <legend className="sr-only">{legend}</legend>
      <div className="flex items-baseline justify-between gap-3">
        <b className="font-semibold" aria-hidden>
          {legend}
        </b>
        <Button look="quiet" className="min-h-[24px]" onClick={onClose}>
          Not now
        </Button>
      </div>
      {found.data && others.length === 0 && (
        <p className="text-soft">{found.data.row.name} has no other section in this term.</p>
      )}
      <Rows rows={others} term={term} onPick={onPick} />
      {alsoStarred.length > 0 && (
        <>
          <p className="mt-2 text-soft">Starred</p>
          <Rows rows={alsoStarred} term={term} onPick={onPick} />
        </>
      )}
      <form className="mt-2 flex flex-wrap items-end gap-2" onSubmit={submit}>
        <div className="w-36">
          <NumberField id={id} label="Or by its number" value={typed} onChange={setTyped} />
        </div>
        <Button type="submit" disabled={!chosen}>
          Take it
        </Button>
        {inFind && (
          <Link className="link ml-auto py-1" to={`${base}/find?${pickParam(inFind)}`}>
            Look in Find
          </Link>
        )}
      </form>
    </fieldset>
  );
}

type RowsProps = { rows: Row[]; term: string; onPick: (number: string) => void };

function Rows({ rows, term, onPick }: RowsProps) {
  if (rows.length === 0) return null;
  return (
    <ul className="border-t border-hair">
      {rows.map((row) => (
        <li key={row.number} className="flex items-center gap-2.5 border-b border-hair py-1">
          <span className="min-w-0 flex-1 leading-tight">
            <span className="number">{row.number}</span>{" "}
            {row.meetings.map((meeting) => meeting.pattern).join(", ") || "any time"}
            <span className="block text-small text-soft">
              <SeatsNow term={term} number={row.number} seats={row.seats} />
              {row.fit.clashes.length > 0 &&
                `, clashes with ${row.fit.clashes.map(({ name }) => name).join(" and ")}`}
            </span>
          </span>
          <WeekStrip row={row} width={74} />
          <Button disabled={row.cancelled} onClick={() => onPick(row.number)}>
            Take<span className="sr-only"> {row.number}</span>
          </Button>
        </li>
      ))}
    </ul>
  );
}
