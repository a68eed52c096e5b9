import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Notice } from "../../ui/Notice";
import { listed } from "../../ui/text";
import type { Question } from "./question";
import type { Asking } from "./useQuestion";
import type { Rows } from "./useTimetables";
import { Wall } from "./Wall";

type Answer = Schemas["TimetablesResponse"];
type Props = { asking: Asking; answer: Answer; rows: Rows };

/** Why there is no timetable, each reason with ways on that act; and what comes nearest. */
export function Reasons({ asking, answer, rows }: Props) {
  const { reasons, are_reasons_whole, nearest } = answer;
  return (
    <div className="space-y-3">
      {reasons.map((reason) => (
        <section
          key={reason.title}
          className="border-l-4 border-l-madder bg-surface px-4 pt-2.5 pb-3"
        >
          <h2 className="text-[18px]">{reason.title}</h2>
          {reason.text && <p className="mt-1">{reason.text}</p>}
          <ul className="mt-1.5 flex flex-wrap gap-x-4 gap-y-0.5">
            {reason.ways_on.map(({ text, question }) => (
              <li key={text}>
                {question ? (
                  <Button
                    look="link"
                    className="min-h-[26px]"
                    onClick={() => asking.ask(() => question as Question)}
                  >
                    {text}
                  </Button>
                ) : (
                  <span className="text-soft">{text}</span>
                )}
              </li>
            ))}
          </ul>
        </section>
      ))}
      {!are_reasons_whole && (
        <Notice tone="note">
          There may be other reasons: so much is asked that there was no time to look for all.
        </Notice>
      )}
      {nearest && (
        <section aria-labelledby="nearest" className="pt-1">
          <h2 id="nearest" className="inline text-[18px]">
            Nearest to it
          </h2>
          <span className="ml-3 text-soft">
            without {listed(nearest.without)}: {numberOf(nearest)}
          </span>
          <Wall
            wall={nearest.timetables.map((timetable) => ({ timetable, isGone: false }))}
            rows={rows}
            order={asking.question.order}
            kept={asking.question.kept_free}
            shown={undefined}
            plans={[]}
            onShow={(numbers) => asking.ask((question) => without(question, answer, numbers))}
          />
        </section>
      )}
    </div>
  );
}

function numberOf({ number, is_beyond, is_exact }: NonNullable<Answer["nearest"]>): string {
  if (is_beyond) return "more than 10 million timetables";
  const said = number.toLocaleString("en-US");
  return `${is_exact ? "" : "at least "}${number === 1 ? "one timetable" : `${said} timetables`}`;
}

/** The same question with what has no part in a timetable wanted only if it fits. */
function without(question: Question, answer: Answer, numbers: string[]): Question {
  const courses = new Set(
    answer.nearest?.timetables
      .find((one) => one.numbers.join() === numbers.join())
      ?.parts.map(({ course }) => course),
  );
  return {
    ...question,
    wants: question.wants.map((want, place) => {
      const known = answer.wants[place]?.courses ?? [];
      const isThere = known.some(({ key }) => courses.has(key));
      return isThere ? want : { ...want, is_needed: false };
    }),
  };
}
