import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Schemas, take } from "../../../api/client";
import { useOnce } from "../../../api/once";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { listed, money } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { OutcomeList } from "../../registration/changes/OutcomeList";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { usePaying } from "../payment/usePaying";
import { longMoment } from "./words";

type Props = { back: Schemas["AskingBackResponse"]; paid: number; session: SignedIn };

/** Seats that were taken back, and asking for them again. */
export function AskBack({ back, paid, session }: Props) {
  const client = useQueryClient();
  const announce = useAnnounce();
  const { term, base } = usePageSubject();
  const { paySum } = usePaying();
  const ask = useOnce(
    (_: undefined, header) =>
      take(
        api.POST("/api/terms/{term}/account/asking-back", { params: { path: { term }, header } }),
      ),
    {
      onSuccess: ({ body }) => {
        const got = body.outcomes.filter(({ result }) => result === "accepted").length;
        announce(`${got} of ${body.outcomes.length} are yours again.`);
        for (const key of ["account", "cart", "confirmations"])
          client.invalidateQueries({ queryKey: [key] });
      },
    },
  );
  const names = back.sections.map(({ name, number }) => `${name} ${number}`);
  const problem = ask.error ?? paySum.error;
  return (
    <section
      aria-labelledby="lost"
      className="mt-3 border-l-4 border-l-madder bg-surface px-4 py-3"
      data-testid="lost"
    >
      <h2 id="lost" className="text-[17px]">
        Your seats were taken back
      </h2>
      <p className="mt-1">
        {back.why[0]?.toUpperCase()}
        {back.why.slice(1)}, so on {longMoment(back.lost_at, session.zone)} these were dropped:{" "}
        {listed(names)} (
        <Link className="link" to={`${base}/confirmations/${back.confirmation}`}>
          confirmation {back.confirmation}
        </Link>
        ).
      </p>
      {back.until === null ? (
        <p className="mt-1 text-soft">
          They can no longer be asked back here. Add what has seats like anything else.
        </p>
      ) : back.pay_first_cents > 0 ? (
        <>
          <p className="mt-1">
            Pay {money(back.pay_first_cents)} and ask them back until{" "}
            {longMoment(back.until, session.zone)}, as long as seats are left.
          </p>
          <Button
            className="mt-2"
            disabled={paySum.isPending}
            onClick={() => paySum.mutate({ cents: back.pay_first_cents, paid })}
          >
            Pay {money(back.pay_first_cents)}
          </Button>
        </>
      ) : (
        <>
          <p className="mt-1">
            Enough is paid. Until {longMoment(back.until, session.zone)} you may ask them back, as
            long as seats are left.
          </p>
          <Button
            look="main"
            className="mt-2"
            disabled={ask.isPending}
            onClick={() => ask.mutate(undefined)}
          >
            {ask.isPending ? "Asking…" : "Ask them back"}
          </Button>
        </>
      )}
      {problem && (
        <div className="mt-2">
          <ProblemNotice problem={problem} />
        </div>
      )}
      {ask.data && (
        <div className="mt-3">
          <OutcomeList outcomes={ask.data.body.outcomes} />
        </div>
      )}
    </section>
  );
}
