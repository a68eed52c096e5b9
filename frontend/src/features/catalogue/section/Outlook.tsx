import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import type { Schemas } from "../../../api/client";
import { outlookQuery } from "../../../api/queries";
import { Findings } from "../../registration/changes/Findings";
import { RequisiteTree } from "../../registration/changes/RequisiteTree";
import { seeChange } from "../../registration/changes/seeChange";
import { EDGES, WORDS } from "../../registration/changes/tones";
import { useCartChanges } from "../../registration/changes/useCartChanges";
import { verdictOf } from "../../registration/changes/verdict";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { useMine } from "./useMine";

/** What the section would mean for whoever is signed in, with the cart as it is. */
export function Outlook({ number }: { number: string }) {
  const subject = usePageSubject();
  const navigate = useNavigate();
  const { cart } = useMine();
  const { put, remove } = useCartChanges(subject);
  const outlook = useQuery(outlookQuery(subject, number));
  if (!outlook.data) return <div className="mb-4 h-[44px]" aria-hidden />;
  const { outcome, requisites, state, now } = outlook.data;
  const isHeld = state === "registered";
  const { word, tone } = verdictOf(outcome, now ? "" : " when your window opens");
  const act = (action: Schemas["ActionResponse"]) => {
    if (action.do === "put") {
      // What is offered goes with the section: that comes too, if it is not there yet.
      const { kind, in_exchange } = outcome;
      const comes =
        state === "open" && action.changes.every((original) => original.number !== number);
      put.mutate([...(comes ? [{ kind, number, in_exchange }] : []), ...action.changes]);
    } else if (action.do === "out") {
      const out = cart?.changes.filter((one) => action.numbers.includes(one.outcome.number)) ?? [];
      remove.mutate(out.map(({ id }) => id));
    } else if (action.do === "see" && seeChange(action.numbers[0] ?? "")) return;
    else if (action.target === "ask") navigate(`${subject.base}/requests?ask=${number}`);
    else navigate(action.do === "go" ? `${subject.base}/clearance` : `${subject.base}/cart`);
  };
  return (
    <section
      aria-label="For you"
      className={`mb-4 border-l-4 bg-surface px-3 py-2 text-[13px] ${isHeld ? "border-l-pine" : EDGES[tone]}`}
    >
      {isHeld ? (
        <b className="font-semibold text-pine">You are registered for it.</b>
      ) : (
        <>
          <b className={`font-semibold ${WORDS[tone]}`}>
            {state === "in cart" ? `In your cart. ${word}` : `For you: ${lower(word)}`}
          </b>{" "}
          <Findings findings={outcome.findings} onAct={act} />
        </>
      )}
      {requisites && <RequisiteTree evidence={requisites} />}
    </section>
  );
}

function lower(word: string): string {
  return word.charAt(0).toLowerCase() + word.slice(1);
}
