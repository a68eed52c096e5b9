import type { Schemas } from "../../../api/client";
import { ProblemNotice } from "../../../ui/Notice";
import { credits } from "../../../ui/text";
import { LimitForm } from "../subject/LimitForm";
import { useAdvising } from "../subject/useAdvising";
import { usePageSubject } from "../subject/usePageSubject";

type Props = { clearance: Schemas["ClearanceResponse"]; isOwn: boolean; mayLimit: boolean };

/** The academic standing and what it limits; the advisor allows more right there. */
export function Standing({ clearance, isOwn, mayLimit }: Props) {
  const { standing } = clearance;
  const onProbation = standing.name === "probation";
  const state = onProbation ? "on probation" : "in good standing";
  return (
    <section aria-labelledby="standing">
      <h2 id="standing" className="border-b border-ink pb-1 text-[20px]">
        Standing
      </h2>
      <p className="py-2.5 text-[14px]">
        {isOwn ? `You are ${state}` : `They are ${state}`}, {standing.class_standing}, with{" "}
        {credits(standing.credits_earned)} earned. {isOwn ? "You" : "They"} may take{" "}
        {credits(standing.credit_limit)} this term
        {standing.own_limit
          ? isOwn
            ? ", as your advisor has allowed."
            : ", as you have allowed."
          : "."}
      </p>
      <p className="text-[13px] text-soft">
        {onProbation && "The limit on probation is lower so that fewer courses can be done well. "}
        {isOwn && (onProbation ? "Your advisor can raise it." : "Your advisor can allow more.")}
      </p>
      {mayLimit && <Limit own={standing.own_limit ? standing.credit_limit : null} />}
    </section>
  );
}

function Limit({ own }: { own: number | null }) {
  const { term, student = 0 } = usePageSubject();
  const { limit } = useAdvising(term);
  return (
    <div className="mt-2">
      <LimitForm
        key={String(own)}
        own={own}
        isPending={limit.isPending}
        onSet={(credits) => limit.mutate({ student, credits })}
      />
      {limit.isError && <ProblemNotice problem={limit.error} />}
    </div>
  );
}
