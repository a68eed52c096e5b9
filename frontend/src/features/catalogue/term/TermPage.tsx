import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { preparedTermQuery } from "../../../api/registrarQueries";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { counted, fullDay } from "../../../ui/text";
import { useToday } from "../../access/session/useToday";
import { OfficeTabs } from "../../office/OfficeTabs";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { CarryForward } from "./CarryForward";
import { CheckList } from "./CheckList";
import { Decided } from "./Decided";
import { OpenTerm } from "./OpenTerm";

/** A term as a whole: whether it is ready, opening and closing it, and what is decided for it. */
export function TermPage() {
  const { term } = usePageSubject();
  const found = useQuery(preparedTermQuery(term));
  return (
    <Page title={found.data?.name ?? "Term"} aside={<OfficeTabs of="registrar" />}>
      {found.isPending && <Reading what="the term" />}
      {found.isError && (
        <div className="mt-4">
          <ProblemNotice problem={found.error} />
        </div>
      )}
      {found.data && <Term term={found.data} />}
    </Page>
  );
}

function Term({ term }: { term: Schemas["PreparedTerm"] }) {
  const today = useToday();
  const [carries, setCarries] = useState(false);
  return (
    <>
      <div className="mt-3 flex flex-wrap items-start gap-x-6 gap-y-3 border-t border-ink pt-4">
        <p className="min-w-[240px] flex-1 text-soft">
          {fullDay(term.first_day, today)} to {fullDay(term.last_day, today)},{" "}
          {counted(term.sections, "section", "sections")}.
        </p>
        <Button onClick={() => setCarries(true)}>Carry it forward</Button>
      </div>
      <OpenTerm term={term} />
      <CheckList term={term} />
      <Decided term={term} />
      {carries && <CarryForward term={term} onClose={() => setCarries(false)} />}
    </>
  );
}
