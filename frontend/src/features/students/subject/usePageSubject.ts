/** Where one is: the term, and for an advisor the student one acts for. */
import { useLocation, useParams } from "react-router";
import type { Subject } from "../../../api/queries";

export type PageSubject = Subject & {
  /** What addresses of this place begin with: `/harvest-2027`, or `/advising/12/harvest-2027`. */
  base: string;
  /** Where one came from who looks at a student as an office does. */
  back: string;
};

export function usePageSubject(): PageSubject {
  const { term = "", student } = useParams();
  const number = student && /^\d{1,9}$/.test(student) ? Number(student) : undefined;
  const isRegistrar = useLocation().pathname.startsWith("/office/");
  if (!number) return { term, student: number, base: `/${term}`, back: "" };
  return isRegistrar
    ? {
        term,
        student: number,
        base: `/office/students/${number}/${term}`,
        back: `/office/${term}/students/${number}`,
      }
    : { term, student: number, base: `/advising/${number}/${term}`, back: `/advising/${term}` };
}
