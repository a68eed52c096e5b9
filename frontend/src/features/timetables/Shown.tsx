import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { plansQuery } from "../../api/queries";
import { useFull } from "../../api/stream";
import { useAnnounce } from "../../ui/announce";
import { Button } from "../../ui/Button";
import { ProblemNotice } from "../../ui/Notice";
import { counted, listed } from "../../ui/text";
import { usePlanChanges } from "../registration/changes/usePlanChanges";
import { usePageSubject } from "../students/subject/usePageSubject";
import type { Drawn } from "./KeptFree";
import { KeySections } from "./KeySections";
import { TimetableWeek } from "./TimetableWeek";
import { tintsOfWall } from "./tints";
import type { Asking } from "./useQuestion";
import type { useTimetables } from "./useTimetables";
import { idOf } from "./useTimetables";
import { placeWords, planOf, summary, type Timetable } from "./words";

type Props = {
  fits: ReturnType<typeof useTimetables>;
  asking: Asking;
  onDraw: (drawn: Drawn) => void;
};

/** The timetable on show as a week, and beside it another, if one was laid there. */
export function Shown({ fits, asking, onDraw }: Props) {
  const id = useId();
  const { answer, wall, rows } = fits;
  const { term } = usePageSubject();
  const timetable = fits.shown.timetable ?? wall[0]?.timetable;
  const other = fits.other.timetable;
  const full = useFull(term, timetable?.numbers ?? [], rows);
  if (!timetable || !answer) return null;
  const tints = tintsOfWall(rows, wall);
  const { question } = asking;
  const keep = (number: string) =>
    asking.ask(({ keeps, ...rest }) => ({
      ...rest,
      keeps: keeps.includes(number)
        ? keeps.filter((one) => one !== number)
        : [...keeps, number].sort(),
    }));
  const weekOf = (one: Timetable) => ({
    rows: [...one.numbers, ...answer.stays].flatMap((number) => rows[number] ?? []),
    tints,
    kept: question.kept_free,
    stays: answer.stays,
    keeps: question.keeps,
    full,
  });
  const place = wall.findIndex((one) => idOf(one.timetable) === idOf(timetable));
  const name = place < 0 ? "Another" : placeWords(place);
  return (
    <section aria-labelledby={id}>
      {fits.shown.isLost && (
        <p
          role="status"
          className="mb-2 border-l-4 border-l-ochre bg-surface px-3 py-2 text-[13px]"
        >
          The timetable of this address does not work as things are: a section of it is full, or has
          changed. This is the first of those that work now.
        </p>
      )}
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 id={id} className="flex-1 text-[18px]">
          {name}
        </h2>
        <Button
          look="link"
          className="min-h-[24px] text-[13px]"
          aria-pressed={Boolean(other)}
          onClick={() => asking.layBeside(other ? [] : timetable.numbers)}
        >
          {other ? "Only one" : "Hold it beside another"}
        </Button>
        <Take timetable={timetable} asking={asking} isGone={fits.shown.isGone} />
      </div>
      {!other && (
        <p className="text-[13px] text-soft">
          {summary(timetable)}
          <Differs timetable={timetable} rows={rows} />
        </p>
      )}
      {timetable.stops.length > 0 && (
        <div className="mt-1 border-l-4 border-l-madder bg-surface px-3 py-2 text-[13px]">
          <p className="font-semibold">It fits, but the rules stop it as it stands.</p>
          {timetable.stops.slice(0, 3).map(({ text }) => (
            <p key={text}>{text}</p>
          ))}
        </div>
      )}
      {other ? (
        <div className="mt-1 grid gap-x-5 gap-y-4 sm:grid-cols-2">
          <div className="min-w-0">
            <p className="truncate text-[13px] text-soft">Held here: {summary(other)}</p>
            <TimetableWeek label="Held here" {...weekOf(other)} differs={[]} isNarrow />
          </div>
          <div className="min-w-0">
            <p className="truncate text-[13px] text-soft">
              {name}: {summary(timetable)}
            </p>
            <TimetableWeek
              label={`${name}, as a week`}
              {...weekOf(timetable)}
              differs={timetable.numbers.filter((number) => !other.numbers.includes(number))}
              isNarrow
            />
          </div>
        </div>
      ) : (
        <TimetableWeek
          label={`${name}, as a week`}
          {...weekOf(timetable)}
          differs={timetable.differs}
          onKeep={keep}
          onDraw={onDraw}
        />
      )}
      <AnyTime rows={weekOf(timetable).rows} />
      <KeySections answer={answer} timetable={timetable} />
    </section>
  );
}

function Differs({ timetable, rows }: { timetable: Timetable; rows: Props["fits"]["rows"] }) {
  if (!timetable.place || timetable.differs.length === 0) return null;
  const names = [...new Set(timetable.differs.map((number) => rows[number]?.course ?? number))];
  const shown = names.length > 3 ? counted(names.length, "course", "courses") : listed(names);
  const verb = names.length === 1 && names.length <= 3 ? "differs" : "differ";
  return `; ${shown} ${verb} from the one before`;
}

/** Sections without set times stand in no week. */
function AnyTime({ rows }: { rows: Props["fits"]["rows"][string][] }) {
  const any = rows.filter(({ meetings }) => meetings.length === 0);
  if (any.length === 0) return null;
  return (
    <p className="border-t border-hair pt-1.5 text-[13px]">
      <span className="text-soft">No set times:</span>{" "}
      {any.map(({ name, number, delivery }) => `${name} ${number}, ${delivery}`).join("; ")}
    </p>
  );
}

type TakeProps = { timetable: Timetable; asking: Asking; isGone: boolean };

function Take({ timetable, asking, isGone }: TakeProps) {
  const subject = usePageSubject();
  const { takeTimetable, putPlan } = usePlanChanges(subject);
  const announce = useAnnounce();
  const plans = useQuery(plansQuery(subject)).data?.plans ?? [];
  const there = planOf(timetable, plans);
  const taken = { question: asking.question, numbers: timetable.numbers };
  const problem = takeTimetable.error ?? putPlan.error;
  const letter = "ABCDE"[plans.length];
  return (
    <>
      {there ? (
        <span className="text-[13px] text-pine">Plan {there} in your cart</span>
      ) : (
        letter && (
          <Button
            look="link"
            className="min-h-[24px] text-[13px]"
            disabled={putPlan.isPending || isGone}
            onClick={() =>
              putPlan.mutate(taken, {
                onSuccess: () => announce(`It is plan ${letter} in your cart.`),
              })
            }
          >
            As plan {letter}
          </Button>
        )
      )}
      <Button
        disabled={takeTimetable.isPending || isGone}
        onClick={() =>
          takeTimetable.mutate(taken, {
            onSuccess: ({ reports }) => announce(reports.map(({ text }) => text).join(" ")),
          })
        }
      >
        Put into the cart
      </Button>
      {problem && (
        <div className="w-full">
          <ProblemNotice problem={problem} />
        </div>
      )}
    </>
  );
}
