import { useMutation, useQueryClient } from "@tanstack/react-query";
import { accountQuery } from "../../../api/accountQueries";
import { api, type Schemas, take } from "../../../api/client";
import { cartQuery } from "../../../api/queries";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { money } from "../../../ui/text";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { longDay, longMoment } from "./words";

type Props = { plan: Schemas["PlanOfferResponse"]; zone: string; onJoined: () => void };

/** An installment plan with its parts as they would be now, and joining it. */
export function InstallmentOffer({ plan, zone, onJoined }: Props) {
  const client = useQueryClient();
  const announce = useAnnounce();
  const subject = usePageSubject();
  const { term } = subject;
  const join = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/terms/{term}/account/installments", {
          params: { path: { term } },
          body: { plan: plan.code },
        }),
      ),
    onSuccess: (account) => {
      client.setQueryData(accountQuery(term).queryKey, account);
      client.invalidateQueries({ queryKey: cartQuery(subject).queryKey });
      announce(`You pay in ${plan.name} now.`);
      onJoined();
    },
  });
  return (
    <div className="mt-3 bg-shade p-3 text-[13px]">
      <ol className="flex flex-wrap gap-x-6 gap-y-1">
        {plan.parts.map(({ at, amount_cents }) => (
          <li key={at ?? "now"} className="tabular-nums">
            <b className="font-semibold">{money(amount_cents)}</b>{" "}
            {at ? `by ${longDay(at, zone)}` : "at once"}
          </li>
        ))}
      </ol>
      <p className="mt-1.5 text-soft">
        What is promised is taken off before. Your seats are safe once the parts due are paid; a
        part that is missed brings a hold. Possible until {longMoment(plan.join_by, zone)}.
      </p>
      <div className="mt-2.5">
        <Button disabled={join.isPending} onClick={() => join.mutate()}>
          Pay in {plan.name}
        </Button>
      </div>
      {join.error && (
        <div className="mt-2">
          <ProblemNotice problem={join.error} />
        </div>
      )}
    </div>
  );
}
