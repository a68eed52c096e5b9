import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { academicPlanQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { counted } from "../../ui/text";
import { lineName, notYet, type PlanLine } from "../students/plan/agreed";
import type { PageSubject } from "../students/subject/usePageSubject";
import { type Question, type Want, wantOf } from "./question";
import type { Asking } from "./useQuestion";

/** The plan agreed with the advisor: what of it is not wanted yet is taken over with one press. */
export function Agreed({ subject, asking }: { subject: PageSubject; asking: Asking }) {
  const plan = useQuery(academicPlanQuery(subject)).data;
  const open = notYet(plan, subject.term).filter((line) => !isWanted(line, asking.question));
  if (!plan?.is_agreed) return null;
  const by = plan.versions[0]?.advisor;
  return (
    <p className="border-b border-hair pb-2 text-[13px]">
      <Link className="link" to={`${subject.base}/plan`}>
        Agreed with {by}
      </Link>
      {open.length > 0 ? (
        <>
          , not wanted yet: {open.map(lineName).join(", ")}.{" "}
          <Button
            className="mt-1.5 block"
            onClick={() =>
              asking.ask((question) => ({
                ...question,
                wants: [...question.wants, ...open.map(asWant)],
              }))
            }
          >
            Take over {counted(open.length, "course", "courses")}
          </Button>
        </>
      ) : (
        ": all of it is wanted or done."
      )}
    </p>
  );
}

function isWanted(line: PlanLine, { wants }: Question): boolean {
  return wants.some(({ courses }) => courses.some((key) => line.courses.includes(key)));
}

function asWant(line: PlanLine): Want {
  const want = { ...wantOf(...line.courses), count: line.count };
  return line.section ? { ...want, only: [line.section] } : want;
}
