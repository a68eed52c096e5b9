import { useState } from "react";
import { useAnnounce } from "../../ui/announce";
import { Button } from "../../ui/Button";
import { usePageSubject } from "../students/subject/usePageSubject";
import { readQuestion, wantOf, writeQuestion } from "./question";
import { recall, remember } from "./remembered";

/** In Find: puts a course among what is wanted in Timetables, with one press. */
export function WantIt({ course }: { course: string }) {
  const { base } = usePageSubject();
  const announce = useAnnounce();
  const [, setPressed] = useState(0);
  const params = new URLSearchParams(recall(base));
  const { question } = readQuestion(params);
  const isWanted = question.wants.some(({ courses }) => courses.includes(course));
  if (isWanted) return <span className="shrink-0 text-small text-soft">wanted in Timetables</span>;
  return (
    <Button
      look="link"
      className="min-h-[24px] shrink-0 text-small"
      onClick={() => {
        writeQuestion(params, { ...question, wants: [...question.wants, wantOf(course)] });
        params.delete("at");
        remember(base, params.toString());
        setPressed((n) => n + 1);
        announce(`${course} is wanted in Timetables.`);
      }}
    >
      Want it<span className="sr-only"> in Timetables: {course}</span>
    </Button>
  );
}
