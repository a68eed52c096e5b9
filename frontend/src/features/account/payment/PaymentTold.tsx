import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useSearchParams } from "react-router";
import { paymentQuery } from "../../../api/accountQueries";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { usePaying } from "./usePaying";

const PAYMENT = "payment";

/** What became of the payment from which one has just come back. The way back only names it; what counts is
 * what the payment service has told the server. */
export function PaymentTold() {
  const [search, setSearch] = useSearchParams();
  const reference = search.get(PAYMENT) ?? "";
  if (!/^[0-9a-f]{24}$/.test(reference)) return null;
  const close = () =>
    setSearch(
      (params) => {
        params.delete(PAYMENT);
        return params;
      },
      { replace: true },
    );
  return <Told reference={reference} onClose={close} />;
}

function Told({ reference, onClose }: { reference: string; onClose: () => void }) {
  const client = useQueryClient();
  const announce = useAnnounce();
  const { ask } = usePaying();
  const payment = useQuery(paymentQuery(reference));
  const state = payment.data?.state;
  const text = payment.data?.text;
  useEffect(() => {
    if (text) announce(text);
    // What the page shows may have been read before the answer came.
    if (state && state !== "waiting")
      for (const key of ["account", "clearance", "cart"])
        client.invalidateQueries({ queryKey: [key] });
  }, [announce, client, state, text]);
  const problem = payment.error ?? ask.error;
  return (
    <div className="mt-3" data-testid="payment-told">
      {problem && <ProblemNotice problem={problem} />}
      {payment.data && (
        <Notice tone={TONES[payment.data.state]}>
          <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
            <p className="min-w-0 flex-1">{payment.data.text}</p>
            {state === "waiting" && (
              <Button disabled={ask.isPending} onClick={() => ask.mutate(reference)}>
                Ask what became of it
              </Button>
            )}
            <Button look="quiet" onClick={onClose}>
              Close<span className="sr-only"> this message</span>
            </Button>
          </div>
        </Notice>
      )}
    </div>
  );
}

const TONES = {
  waiting: "warning",
  approved: "note",
  declined: "stop",
  returned: "warning",
} as const;
