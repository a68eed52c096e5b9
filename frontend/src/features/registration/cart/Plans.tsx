import { X } from "lucide-react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { countdown, counted } from "../../../ui/text";
import { useNow } from "../../../ui/useNow";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { usePlanChanges } from "../changes/usePlanChanges";
import { FiguresTable } from "./FiguresTable";
import { OneOf } from "./OneOf";

type Plans = Schemas["PlansResponse"];

/** Whole timetables in order: the first that goes through whole is taken. */
export function PlanList({ plans, when }: { plans: Plans; when: string }) {
  const { orderPlans } = usePlanChanges(usePageSubject());
  const ids = plans.plans.map(({ id }) => id);
  const raise = (place: number) => {
    const next = [...ids];
    next.splice(place - 1, 2, ids[place] as number, ids[place - 1] as number);
    orderPlans.mutate(next);
  };
  return (
    <ol aria-label="Plans in order">
      {plans.plans.map((plan, place) => (
        <li
          key={plan.id}
          className={`border-b border-l-4 border-b-hair px-[15px] py-2.5 text-[13px] ${edgeOf(plan, plans)}`}
          data-testid={`plan-${plan.name}`}
        >
          <div className="flex items-start justify-between gap-2">
            <h3 className="font-sans text-[14px] font-semibold">Plan {plan.name}</h3>
            <span className="flex gap-1 text-soft">
              {place > 0 && (
                <button
                  type="button"
                  className="rounded-sm px-1.5 hover:bg-shade hover:text-ink"
                  aria-label={`Put plan ${plan.name} before the one above`}
                  onClick={() => raise(place)}
                >
                  <span aria-hidden>↑</span>
                </button>
              )}
              <button
                type="button"
                className="rounded-sm p-1 hover:bg-shade hover:text-ink"
                aria-label={`Take plan ${plan.name} out`}
                onClick={() => orderPlans.mutate(ids.filter((id) => id !== plan.id))}
              >
                <X size={15} aria-hidden />
              </button>
            </span>
          </div>
          <Verdict plan={plan} plans={plans} when={when} />
          <p className="text-soft">
            {plan.changes.map(({ section }) => `${section.name} ${section.number}`).join(", ")}
          </p>
        </li>
      ))}
      {orderPlans.error && <ProblemNotice problem={orderPlans.error} />}
    </ol>
  );
}

type Plan = Plans["plans"][number];

function edgeOf(plan: Plan, { taken }: Plans): string {
  if (plan.name === taken) return "border-l-pine";
  return plan.is_whole ? "border-l-hair" : "border-l-madder";
}

function Verdict({ plan, plans, when }: { plan: Plan; plans: Plans; when: string }) {
  if (plan.name === plans.taken)
    return (
      <p>
        <b className="font-semibold text-pine">Will go through{when}</b>, with the seats as they are
        now.
      </p>
    );
  if (plan.is_whole) {
    const before = plans.taken ? `Only if ${plans.taken} cannot be had whole.` : "";
    return <p>{before}</p>;
  }
  const [stop] = plan.stops;
  return (
    <p>
      <b className="font-semibold text-madder">Not whole.</b>{" "}
      {stop ? `${stop.section}: ${stop.text}` : "Something in it is stopped."}
      {plan.stops.length > 1 && ` And ${counted(plan.stops.length - 1, "more", "more")}.`}
    </p>
  );
}

type FootProps = {
  plans: Plans;
  session: SignedIn;
  isSending: boolean;
  onSend: (body: Schemas["SubmissionWanted"]) => void;
};

const FALLBACKS = [
  ["nothing", "If none, nothing"],
  ["best part", "If none, what can be had of A"],
] as const;

/** What sending the plans would lead to, and the one button that says what it will do. */
export function PlansFoot({ plans, session, isSending, onSend }: FootProps) {
  const { fallback } = usePlanChanges(usePageSubject());
  const now = useNow(session.ahead).getTime();
  const wait = plans.ahead ? Date.parse(plans.as_of) - now : 0;
  const { before, after, sends, taken, passing } = plans;
  if (!before || !after || !sends) return null;
  const others = plans.plans.map(({ name }) => name).filter((name) => name > taken);
  const word = taken
    ? `Put plan ${taken} through${others.length ? `, else ${others.join(" or ")}` : ""}`
    : passing > 0
      ? `Put ${counted(passing, "change", "changes")} of plan A through`
      : "Try the plans in order";
  return (
    <div className="border-t border-ink bg-paper px-[18px] pt-3 pb-4">
      <FiguresTable before={before} after={after} />
      <OneOf
        legend="Where no plan can be had whole"
        values={FALLBACKS}
        chosen={plans.fallback}
        onChoose={fallback.mutate}
      />
      <Button
        look="main"
        className="w-full py-2.5 text-[15px]"
        disabled={isSending || plans.ahead}
        onClick={() => onSend(sends)}
      >
        {isSending
          ? "Putting it through…"
          : plans.ahead
            ? `Window opens in ${countdown(wait)}`
            : word}
      </Button>
      {plans.ahead && (
        <p className="mt-1.5 text-center text-small text-soft">
          {taken ? `Plan ${taken} would go through then` : "No plan would go through whole then"}
        </p>
      )}
    </div>
  );
}

type WhichProps = {
  plans: number;
  changes: number;
  onPlans: boolean;
  onChoose: (plans: boolean) => void;
};

/** Plans are put through by themselves, and so are single changes: one looks at the one or the other. */
export function Which({ plans, changes, onPlans, onChoose }: WhichProps) {
  const faces = [
    [true, counted(plans, "plan", "plans")],
    [false, counted(changes, "single change", "single changes")],
  ] as const;
  return (
    <div className="flex gap-4 border-b border-hair px-[18px] pt-2 text-[13px]">
      {faces.map(([which, face]) => (
        <button
          key={face}
          type="button"
          aria-pressed={which === onPlans}
          className={`pb-1.5 ${which === onPlans ? "border-b-2 border-pine font-semibold" : "text-soft hover:text-ink"}`}
          onClick={() => onChoose(which)}
        >
          {face}
        </button>
      ))}
    </div>
  );
}
