/** Where one is: the term, and for an advisor the student one acts for. */
import { useParams } from "react-router";
import type { Subject } from "../../api/queries";

export type PageSubject = Subject & {
  /** What addresses of this place begin with: `/harvest-2027`, or `/advising/12/harvest-2027`. */
  base: string;
};

export function usePageSubject(): PageSubject {
  const { term = "", student } = useParams();
  const number = student && /^\d{1,9}$/.test(student) ? Number(student) : undefined;
  return { term, student: number, base: number ? `/advising/${number}/${term}` : `/${term}` };
}
