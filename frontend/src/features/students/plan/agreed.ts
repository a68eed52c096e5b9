/** What of an agreed plan is not yet there. */
import type { Schemas } from "../../../api/client";

export type Plan = Schemas["AcademicPlanResponse"];
export type PlanLine = Plan["lines"][number];

/** Lines of this term that nothing has come of yet; none while the plan is not agreed by both. */
export function notYet(plan: Plan | undefined, term: string): PlanLine[] {
  if (!plan?.is_agreed) return [];
  return plan.lines.filter((line) => line.term === term && line.state === "not yet");
}

/** `HIST 130 or MAPS 130` */
export function lineName({ courses, count }: Pick<PlanLine, "courses" | "count">): string {
  const many = count > 1 ? `${count} of ` : "";
  return `${many}${courses.join(" or ")}`;
}

/** The courses of this term that are agreed, by each of their keys. */
export function agreedCourses(plan: Plan | undefined, term: string): Set<string> {
  const lines = plan?.is_agreed ? plan.lines.filter((line) => line.term === term) : [];
  return new Set(lines.flatMap(({ courses }) => courses));
}
