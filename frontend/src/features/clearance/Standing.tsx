import type { Schemas } from "../../api/client";
import { credits } from "../../ui/text";

/** The academic standing and what it limits. */
export function Standing({ clearance }: { clearance: Schemas["ClearanceResponse"] }) {
  const { standing } = clearance;
  const onProbation = standing.name === "probation";
  return (
    <section aria-labelledby="standing">
      <h2 id="standing" className="border-b border-ink pb-1 text-[20px]">
        Standing
      </h2>
      <p className="py-2.5 text-[14px]">
        {onProbation ? "You are on probation" : "You are in good standing"},{" "}
        {standing.class_standing}, with {credits(standing.credits_earned)} earned. You may take{" "}
        {credits(standing.credit_limit)} this term
        {standing.own_limit ? ", as your advisor has allowed." : "."}
      </p>
      <p className="text-[13px] text-soft">
        {onProbation
          ? "The limit on probation is lower so that fewer courses can be done well. Your advisor can raise it."
          : "Your advisor can allow more."}
      </p>
    </section>
  );
}
