import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { plansQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Page, Reading } from "../../ui/Page";
import { usePageSubject } from "../students/subject/usePageSubject";
import { Agreed } from "./Agreed";
import { CoursePicker } from "./CoursePicker";
import { type Drawn, KeptFreeList } from "./KeptFree";
import { MayMove } from "./MayMove";
import { Ordering } from "./Ordering";
import { Reasons } from "./Reasons";
import { Shown } from "./Shown";
import { Switches } from "./Switches";
import { type Asking, useQuestion } from "./useQuestion";
import { useTimetables } from "./useTimetables";
import { Wall } from "./Wall";
import { Wants } from "./Wants";
import { askedWords, numberWords } from "./words";

const KeepTimetable = lazy(async () => ({
  default: (await import("./KeepTimetable")).KeepTimetable,
}));

/** From courses to timetables: what is wanted at the left, what works at the right. */
export function TimetablesPage() {
  const subject = usePageSubject();
  const asking = useQuestion(subject.base);
  const fits = useTimetables(subject, asking);
  const { answer, found, isAsked, wall } = fits;
  const [drawn, setDrawn] = useState<Drawn | null>(null);
  const [isOpen, setIsOpen] = useState(false);
  const [isKeeping, setIsKeeping] = useState(false);
  const { question } = asking;
  const plans = useQuery(plansQuery(subject)).data?.plans ?? [];
  const isCompared = fits.other.timetable !== undefined;
  return (
    <Page
      title="Timetables"
      beside={
        <p aria-live="polite" aria-busy={found.isFetching}>
          {answer && <NumberOf answer={answer} />}
        </p>
      }
      aside={
        <span className="flex items-baseline gap-4">
          <Switches asking={asking} />
          <Button onClick={() => setIsKeeping(true)}>Keep or show</Button>
        </span>
      }
    >
      <div
        className={`mt-2 grid gap-x-6 gap-y-3 border-t border-ink pt-2.5 ${isCompared ? "" : "md:grid-cols-[236px_minmax(0,1fr)]"}`}
      >
        {isAsked && (
          <button
            type="button"
            className="flex min-h-[30px] items-baseline justify-between gap-3 border-b border-hair pb-1.5 text-left text-[13px] md:hidden"
            aria-expanded={isOpen}
            onClick={() => setIsOpen(!isOpen)}
          >
            <span className="min-w-0 truncate">{askedWords(question)}</span>
            <span className="link shrink-0 font-semibold">{isOpen ? "Done" : "Change"}</span>
          </button>
        )}
        <div
          className={`min-w-0 space-y-5 ${isAsked && !isOpen ? "max-md:hidden" : ""} ${isCompared ? "md:hidden" : ""}`}
        >
          <Agreed subject={subject} asking={asking} />
          <Wants asking={asking} answer={answer} />
          <KeptFreeList asking={asking} drawn={drawn} onDrawn={() => setDrawn(null)} />
          <Ordering asking={asking} />
          <MayMove subject={subject} asking={asking} />
        </div>
        <div className="min-w-0">
          {asking.strange.map((text) => (
            <Notice key={text} tone="warning">
              The address asks for “{text.slice(0, 60)}”, which cannot be read. It was left aside.
            </Notice>
          ))}
          {!isAsked && <Begin asking={asking} />}
          {isAsked && found.isError && <ProblemNotice problem={found.error} />}
          {isAsked && found.isPending && <Reading what="the timetables" />}
          {answer && answer.number === 0 && (
            <Reasons asking={asking} answer={answer} rows={fits.rows} />
          )}
          {answer && answer.number > 0 && (
            <>
              {!answer.is_whole && (
                <Notice tone="warning">
                  There was no time to look at all of it. Those shown work; there may be better
                  ones. Want fewer courses, or narrow them.
                </Notice>
              )}
              <Shown fits={fits} asking={asking} onDraw={setDrawn} />
              <Wall
                wall={wall}
                rows={fits.rows}
                order={question.order}
                kept={question.kept_free}
                shown={fits.shown.timetable ?? wall[0]?.timetable}
                plans={plans}
                onShow={asking.show}
              />
              {found.hasNextPage && (
                <Button
                  className="mt-3"
                  disabled={found.isFetchingNextPage}
                  onClick={() => found.fetchNextPage()}
                >
                  {found.isFetchingNextPage ? "Reading more…" : "Show more"}
                </Button>
              )}
            </>
          )}
        </div>
      </div>
      {isKeeping && (
        <Suspense>
          <KeepTimetable
            asking={asking}
            timetable={fits.shown.timetable ?? wall[0]?.timetable}
            onClose={() => setIsKeeping(false)}
          />
        </Suspense>
      )}
    </Page>
  );
}

function NumberOf({ answer }: { answer: Parameters<typeof numberWords>[0] }) {
  const [number, rest] = numberWords(answer);
  return (
    <>
      <b className="font-serif text-[20px] font-medium">{number}</b> {rest}
    </>
  );
}

function Begin({ asking }: { asking: Asking }) {
  return (
    <div className="max-w-[440px] py-2">
      <h2 className="text-[20px]">Name the courses you want</h2>
      <p className="mt-1 mb-3 text-soft">
        Every timetable that works appears here at once: how many there are, the best first, and why
        where there is none. Keep hours free for work or the bus home, and say what matters to you.
      </p>
      <CoursePicker face="Add a course" look="plain" asking={asking} />
    </div>
  );
}
