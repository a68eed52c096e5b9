import { useQuery } from "@tanstack/react-query";
import { clearanceQuery } from "../../../api/queries";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import type { SignedIn } from "../../access/session/useSignedIn";
import { PaymentTold } from "../../account/payment/PaymentTold";
import { usePageSubject } from "../subject/usePageSubject";
import { Holds } from "./Holds";
import { Items } from "./Items";
import { Standing } from "./Standing";

/** Am I clear, and if not, what is to be done: every item with its state, its owner, its way on. */
export function ClearancePage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const clearance = useQuery(clearanceQuery(subject));
  if (!clearance.data) {
    return (
      <Page title="Clearance">
        {clearance.isError ? (
          <div className="mt-4">
            <ProblemNotice problem={clearance.error} />
          </div>
        ) : (
          <Reading what="what stands in your way" />
        )}
      </Page>
    );
  }
  const { sentence, clear } = clearance.data;
  const isOwn = session.person.role === "student";
  return (
    <Page title="Clearance">
      <p
        className={`mt-2 mb-5 max-w-[62ch] border-l-4 py-1 pl-3.5 font-serif text-[18px] leading-snug ${clear ? "border-l-pine" : "border-l-madder"}`}
        data-testid="sentence"
        aria-live="polite"
      >
        {sentence}
      </p>
      <PaymentTold />
      <Holds clearance={clearance.data} session={session} isOwn={isOwn} />
      <Items clearance={clearance.data} session={session} isOwn={isOwn} />
      <Standing
        clearance={clearance.data}
        isOwn={isOwn}
        mayLimit={session.person.role === "advisor"}
      />
    </Page>
  );
}
