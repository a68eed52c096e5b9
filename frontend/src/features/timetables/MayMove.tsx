import { useQuery } from "@tanstack/react-query";
import { type Subject, weekQuery } from "../../api/queries";
import type { Asking } from "./useQuestion";

/** What is registered stays as it is, unless it may move to another section of its course. */
export function MayMove({ subject, asking }: { subject: Subject; asking: Asking }) {
  const week = useQuery(weekQuery(subject));
  const courses = new Map<string, string[]>();
  for (const { section, state } of week.data?.entries ?? [])
    if (state === "registered" || state === "dropped")
      courses.set(section.course, [...(courses.get(section.course) ?? []), section.number]);
  if (courses.size === 0) return null;
  const free = asking.question.may_move;
  return (
    <section aria-labelledby="registered">
      <h2 id="registered" className="text-[18px]">
        Registered
      </h2>
      <ul className="border-t border-hair">
        {[...courses].map(([course, numbers]) => {
          const moves = numbers.some((number) => free.includes(number));
          return (
            <li
              key={course}
              className="flex items-center justify-between gap-2 border-b border-hair py-1"
            >
              <b className="font-semibold">{course}</b>
              <button
                type="button"
                aria-pressed={moves}
                className="link min-h-[26px] text-small"
                title={moves ? "Leave it as it is" : "Look at its other sections too"}
                onClick={() =>
                  asking.ask((question) => ({
                    ...question,
                    may_move: moves
                      ? question.may_move.filter((number) => !numbers.includes(number))
                      : [...question.may_move, ...numbers].sort(),
                  }))
                }
              >
                {moves ? "may move" : "stays"}
                <span className="sr-only"> {course}</span>
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
