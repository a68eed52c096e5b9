import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { owingQuery } from "../../../api/accountQueries";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { SearchField } from "../../../ui/SearchField";
import { Tick } from "../../../ui/Ticks";
import { dayAndTime, money } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OfficeTabs } from "../../office/OfficeTabs";
import { usePageSubject } from "../../students/subject/usePageSubject";

/** The cashier: who owes what. */
export function CashierPage({ session }: { session: SignedIn }) {
  const { term } = usePageSubject();
  const [search, setSearch] = useState("");
  const [onlyOpen, setOnlyOpen] = useState(true);
  const found = useInfiniteQuery(owingQuery(term, search, onlyOpen));
  const students = found.data?.pages.flatMap((page) => page.students) ?? [];
  return (
    <Page title="Accounts" aside={<OfficeTabs of="cashier" />}>
      <div className="mt-3 flex flex-wrap items-end gap-x-6 gap-y-2">
        <div className="w-64">
          <SearchField label="Student" placeholder="Name" onSearch={setSearch} />
        </div>
        <Tick checked={onlyOpen} onChange={setOnlyOpen}>
          Only with something open or paid too much
        </Tick>
      </div>
      {found.error && <ProblemNotice problem={found.error} />}
      {found.isPending ? (
        <Reading what="the accounts" />
      ) : (
        <table className="mt-3 w-full border-t border-ink text-[13.5px]">
          <thead className="max-md:sr-only">
            <tr className="text-left text-[12px] text-soft">
              {["Student", "Charged", "Paid", "Anticipated", "Open", "Due next"].map(
                (name, place) => (
                  <th
                    key={name}
                    scope="col"
                    className={`py-1.5 font-normal ${place > 0 && place < 5 ? "pl-4 text-right" : place ? "pl-6" : ""}`}
                  >
                    {name}
                  </th>
                ),
              )}
            </tr>
          </thead>
          <tbody>
            {students.map((student) => (
              <OwingRow key={student.student} student={student} term={term} session={session} />
            ))}
          </tbody>
        </table>
      )}
      {found.data && students.length === 0 && !found.hasNextPage && (
        <p className="py-3 text-soft">
          {search
            ? `No student of that name ${onlyOpen ? "owes anything" : ""}.`
            : "Nobody owes anything."}
        </p>
      )}
      {found.hasNextPage && (
        <Button
          className="mt-3"
          disabled={found.isFetchingNextPage}
          onClick={() => found.fetchNextPage()}
        >
          {found.isFetchingNextPage ? "Reading on…" : "More"}
        </Button>
      )}
    </Page>
  );
}

type RowProps = { student: Schemas["OwingResponse"]; term: string; session: SignedIn };

function OwingRow({ student, term, session }: RowProps) {
  const { balance_cents: open } = student;
  const sum = "py-1.5 pl-4 text-right tabular-nums whitespace-nowrap";
  return (
    <tr className="border-t border-hair align-baseline max-md:flex max-md:flex-wrap max-md:gap-x-3">
      <th scope="row" className="py-1.5 text-left font-normal max-md:basis-full">
        <Link className="link font-semibold" to={`/fees/${term}/${student.student}`}>
          {student.full_name}
        </Link>{" "}
        <span className="text-[12px] text-soft">{student.username}</span>
      </th>
      <td className={`${sum} max-md:hidden`}>{money(student.charged_cents)}</td>
      <td className={`${sum} max-md:hidden`}>{money(student.paid_cents)}</td>
      <td className={`${sum} max-md:hidden`}>
        {student.anticipated_cents > 0 && money(student.anticipated_cents)}
      </td>
      <td className={`${sum} font-semibold max-md:pl-0`}>
        {open < 0 ? `${money(-open)} too much` : money(open)}
      </td>
      <td className="py-1.5 pl-6 text-[13px]">
        {student.due_at && (
          <>
            {money(student.due_cents)} by {dayAndTime(new Date(student.due_at), session.zone)}
          </>
        )}
        {student.in_plan && <span className="text-soft"> in parts</span>}
        {student.spared && (
          <span className="block text-soft">keeps the seats: {student.spared}</span>
        )}
      </td>
    </tr>
  );
}
