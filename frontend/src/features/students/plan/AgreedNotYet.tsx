import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { academicPlanQuery } from "../../../api/queries";
import { usePageSubject } from "../subject/usePageSubject";
import { lineName, notYet } from "./agreed";

/** In the cart: what was agreed with the advisor and is not in it yet. */
export function AgreedNotYet() {
  const subject = usePageSubject();
  const open = notYet(useQuery(academicPlanQuery(subject)).data, subject.term);
  if (open.length === 0) return null;
  return (
    <p className="border-t border-hair px-[18px] py-2.5 text-[13px] text-soft">
      Agreed, not yet in your cart: {open.map(lineName).join(", ")}.{" "}
      <Link className="link" to={`${subject.base}/timetables`}>
        Find timetables with it
      </Link>
    </p>
  );
}
