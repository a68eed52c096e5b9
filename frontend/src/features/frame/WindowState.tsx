import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import type { Schemas } from "../../api/client";
import { cartQuery, clearanceQuery } from "../../api/queries";
import { countdown, dayAndTime } from "../../ui/text";
import { useNow } from "../../ui/useNow";
import type { SignedIn } from "../access/session/useSignedIn";
import { usePageSubject } from "../students/subject/usePageSubject";
import { CHIP } from "./chip";

type Props = { session: SignedIn; window: Schemas["WindowResponse"] | undefined };

/** When the student may register, counting down to it. */
export function WindowState({ session, window }: Props) {
  const { term, student } = usePageSubject();
  const client = useQueryClient();
  const now = useNow(session.ahead).getTime();
  const turn = window?.state === "early" ? window.opens_at : window?.closes_at;
  const due = turn ? Date.parse(turn) <= now : false;
  const passed = due && (window?.state === "early" || window?.state === "open");
  const pair = passed ? Math.floor(now / 2000) : 0;
  useEffect(() => {
    // The minute has come: what the cart says is no longer so. Asked again every two seconds until
    // the server agrees, whose clock may be a moment behind; and not by everybody in the same one.
    if (!pair) return;
    const timer = globalThis.setTimeout(() => {
      for (const query of [cartQuery, clearanceQuery])
        client.invalidateQueries({ queryKey: query({ term, student }).queryKey });
    }, Math.random() * 1_000);
    return () => globalThis.clearTimeout(timer);
  }, [pair, client, term, student]);
  if (!window) return null;
  const at = turn ? dayAndTime(new Date(turn), session.zone) : "";
  const text = {
    none: <>No window yet</>,
    early: (
      <>
        <Long>Window </Long>opens in{" "}
        <b className="font-semibold text-woad">{countdown(Date.parse(turn ?? "") - now)}</b>
      </>
    ),
    open: (
      <>
        <Long>Window </Long>
        <b className="font-semibold text-pine">open</b> until {at}
      </>
    ),
    over: (
      <>
        <Long>Window </Long>
        <b className="font-semibold text-madder">closed</b> {at}
      </>
    ),
  }[window.state];
  return (
    <span
      className={`${CHIP} max-lg:border-0 max-lg:bg-transparent group-has-data-offer/bar:max-sm:hidden`}
      title={window.state === "early" ? `It opens ${at}` : undefined}
      data-testid="window-state"
    >
      {text}
    </span>
  );
}

/** Read out everywhere; seen where there is room. */
function Long({ children }: { children: ReactNode }) {
  return <span className="max-lg:sr-only">{children}</span>;
}
