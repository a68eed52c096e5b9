import type { Schemas } from "../../../api/client";

/** Of plans that were sent, which was taken, and why not those before it. */
export function PlansTold({ plans }: { plans: Schemas["PlanOutcome"][] }) {
  if (plans.length === 0) return null;
  const taken = plans.find((plan) => plan.taken);
  return (
    <div className="border-t border-hair px-[18px] py-2.5 text-[13px]">
      <p className="font-semibold">
        {taken ? `Plan ${taken.name} was taken.` : "No plan could be had whole."}
      </p>
      {plans
        .filter((plan) => !plan.taken)
        .map(({ name, stops }) => (
          <p key={name} className="mt-1">
            <b className="font-semibold">Plan {name}:</b>{" "}
            {stops
              .slice(0, 2)
              .map(({ section, text }) => `${section}: ${text}`)
              .join(" ") || "not all of it could be had."}
          </p>
        ))}
    </div>
  );
}
