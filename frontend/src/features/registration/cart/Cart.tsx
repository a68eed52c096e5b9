import { type Mutation, useIsMutating, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../../api/client";
import { cartQuery, plansQuery } from "../../../api/queries";
import { type Seats, useSeatTurns } from "../../../api/stream";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { Reading } from "../../../ui/Page";
import { dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { type PageSubject, usePageSubject } from "../../students/subject/usePageSubject";
import { seeChange } from "../changes/seeChange";
import { CART_CHANGE, useCartChanges } from "../changes/useCartChanges";
import { Foot } from "./Foot";
import { NumberEntry } from "./NumberEntry";
import { useSending } from "./useSending";

// What moves changes about is not needed for the first view.
const ChangeList = lazy(async () => ({ default: (await import("./ChangeList")).ChangeList }));
const CommonStops = lazy(async () => ({ default: (await import("./CommonStops")).CommonStops }));
const Granted = lazy(async () => ({ default: (await import("./Granted")).Granted }));
const AgreedNotYet = lazy(async () => ({
  default: (await import("../../students/plan/AgreedNotYet")).AgreedNotYet,
}));
const Done = lazy(async () => ({ default: (await import("./Done")).Done }));
const PlanList = lazy(async () => ({ default: (await import("./Plans")).PlanList }));
const Which = lazy(async () => ({ default: (await import("./Plans")).Which }));
const PlansFoot = lazy(async () => ({ default: (await import("./Plans")).PlansFoot }));

/** The cart: reference numbers, the changes with their verdicts, and putting them through. */
export function Cart({ session, level }: { session: SignedIn; level: 1 | 2 }) {
  const Heading = level === 1 ? "h1" : "h2";
  const subject = usePageSubject();
  const navigate = useNavigate();
  const cart = useQuery(cartQuery(subject));
  const { enter, put, instead, choose, remove, order, mode } = useCartChanges(subject);
  const sending = useSending(subject, session.person.username);
  const changes = cart.data?.changes ?? [];
  const trouble =
    put.error ?? instead.error ?? choose.error ?? remove.error ?? order.error ?? mode.error;
  const opensAt = cart.data?.ahead ? dayAndTime(new Date(cart.data.as_of), session.zone) : "";
  const leftOut = put.data?.reports.filter((report) => !report.taken) ?? [];
  const act = (change: Schemas["CartChangeResponse"] | null, action: Schemas["ActionResponse"]) => {
    if (action.do === "put") put.mutate(action.changes);
    else if (action.do === "instead" && change)
      instead.mutate({ id: change.id, version: change.version, numbers: action.numbers });
    else if (action.do === "out")
      remove.mutate(
        changes.filter((one) => action.numbers.includes(one.outcome.number)).map(({ id }) => id),
      );
    else if (action.do === "up" && change) {
      const isMine = ({ group }: Schemas["CartChangeResponse"]) => group === change.group;
      const rest = changes.filter((one) => !isMine(one));
      order.mutate([...changes.filter(isMine), ...rest].map(({ id }) => id));
    } else if (action.do === "see") seeChange(action.numbers[0] ?? "");
    else if (action.target === "ask" && change)
      navigate(`${subject.base}/requests?ask=${change.outcome.number}`);
    else navigate(`${subject.base}/clearance`);
  };

  const plans = useQuery(plansQuery(subject)).data;
  const [showsChanges, setShowsChanges] = useState(false);
  useSeatsOfCart(subject, changes, plans);
  const hasPlans = plans !== undefined && plans.plans.length > 0;
  const onPlans = hasPlans && !showsChanges;
  const send = useSendWhenSettled(cart.data?.sends, sending.start);

  return (
    <div className="flex h-full min-h-0 flex-col short:block short:overflow-y-auto">
      <div className="border-b border-hair px-[18px] pt-3.5 pb-2.5">
        <div className="flex items-baseline justify-between gap-3">
          <Heading className="text-[20px]">Cart</Heading>
          <span className="text-[13px] text-soft">nothing here is registered yet</span>
        </div>
        <NumberEntry enter={enter} disabled={session.expired} />
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto short:overflow-visible">
        {sending.data && (
          <Suspense>
            <Done
              confirmation={sending.data}
              session={session}
              base={subject.base}
              onClose={sending.reset}
            />
          </Suspense>
        )}
        {sending.isPending && sending.troubled && (
          <Notice tone="warning">
            There was no answer. The same sending is tried again; nothing is put through twice.
          </Notice>
        )}
        {sending.isError && (
          <div className="space-y-2 p-3">
            <ProblemNotice problem={sending.error} />
            {sending.isLeft() && <Button onClick={sending.repeat}>Send the same again</Button>}
          </div>
        )}
        {trouble && <ProblemNotice problem={trouble} />}
        {leftOut.map((report) => (
          <Notice key={report.piece + report.text} tone="warning">
            <span className="number">{report.piece}</span> {report.text}
          </Notice>
        ))}
        {opensAt && (changes.length > 0 || hasPlans) && (
          <p className="border-b border-ink bg-paper px-[18px] py-3 text-[13px] leading-snug">
            <b className="font-semibold text-woad">Not yet.</b> Your window opens on {opensAt}. What
            is said here is what would happen then, with the seats as they are now.
          </p>
        )}
        {cart.data && cart.data.granted.length > 0 && (
          <Suspense>
            <Granted
              cart={cart.data}
              zone={session.zone}
              isSending={sending.isPending}
              onSend={sending.start}
            />
          </Suspense>
        )}
        {hasPlans && (
          <Suspense>
            <Which
              plans={plans.plans.length}
              changes={changes.length}
              onPlans={onPlans}
              onChoose={(which) => setShowsChanges(!which)}
            />
          </Suspense>
        )}
        {!onPlans && changes.length > 0 && (
          <Suspense>
            <CommonStops changes={changes} onAct={(action) => act(null, action)} />
          </Suspense>
        )}
        {cart.isPending && (
          <div className="px-[18px]">
            <Reading what="your cart" />
          </div>
        )}
        {cart.isError && !cart.data && <ProblemNotice problem={cart.error} />}
        {cart.data && changes.length === 0 && !sending.data && !onPlans && <Empty />}
        <Suspense fallback={<Waiting many={changes.length} />}>
          {onPlans && <PlanList plans={plans} when={opensAt ? ` on ${opensAt}` : ""} />}
          {!onPlans && changes.length > 0 && (
            <ChangeList
              changes={changes}
              onOrder={order.mutate}
              onRemove={remove.mutate}
              onAct={act}
              onChoose={({ id, version }, chosen) => choose.mutate({ id, version, chosen })}
              when={opensAt ? ` on ${opensAt}` : ""}
            />
          )}
        </Suspense>
        {!onPlans && (
          <Suspense>
            <AgreedNotYet />
          </Suspense>
        )}
        {!onPlans && cart.data && cart.data.linked_sections_added.length > 0 && (
          <p className="border-b border-hair px-[18px] py-2 text-[13px] text-soft">
            The next choice brings along{" "}
            {cart.data.linked_sections_added
              .map(({ name, number }) => `${name} ${number}`)
              .join(", ")}
            .
          </p>
        )}
      </div>
      {onPlans && (
        <Suspense>
          <PlansFoot
            plans={plans}
            session={session}
            isSending={sending.isPending}
            onSend={sending.start}
          />
        </Suspense>
      )}
      {!onPlans && cart.data && changes.length > 0 && (
        <Foot
          cart={cart.data}
          session={session}
          isSending={sending.isPending || send.isWaiting}
          onMode={mode.mutate}
          onSend={send.start}
        />
      )}
    </div>
  );
}

/**
 * What is pressed right after changes of the cart is meant for the cart as they make it: it is sent
 * once they have been answered, and not at all if one of them failed.
 */
function useSendWhenSettled(
  sends: Schemas["SubmissionWanted"] | null | undefined,
  start: (sends: Schemas["SubmissionWanted"]) => void,
) {
  const cache = useQueryClient().getMutationCache();
  const changing = useIsMutating({ mutationKey: CART_CHANGE }) > 0;
  const [awaited, setAwaited] = useState<Mutation[] | null>(null);
  useEffect(() => {
    if (!awaited || changing) return;
    setAwaited(null);
    if (sends && awaited.every(({ state }) => state.status === "success")) start(sends);
  }, [awaited, changing, sends, start]);
  return {
    isWaiting: awaited !== null,
    start: () => setAwaited(cache.findAll({ mutationKey: CART_CHANGE, status: "pending" })),
  };
}

/** A seat that comes or goes is a new verdict; it is asked for a moment later, not by all at once. */
function useSeatsOfCart(
  subject: PageSubject,
  changes: Schemas["CartChangeResponse"][],
  plans: Schemas["PlansResponse"] | undefined,
): void {
  const client = useQueryClient();
  const announce = useAnnounce();
  const planned = plans?.plans.flatMap((plan) => plan.changes.map(({ section }) => section)) ?? [];
  const names = new Map([
    ...planned.map(({ number, name }) => [number, name] as const),
    ...changes.map(({ outcome }) => [outcome.number, outcome.name] as const),
  ]);
  const latest = useRef(names);
  latest.current = names;
  const { term, student } = subject;
  const onTurn = useCallback(
    (number: string, { left }: Seats) => {
      const said = left > 0 ? "has a seat again" : "is full now";
      announce(`${latest.current.get(number) ?? ""} ${number} ${said}.`);
      window.setTimeout(
        () => client.invalidateQueries({ queryKey: cartQuery({ term, student }).queryKey }),
        Math.random() * 2_000,
      );
    },
    [announce, client, term, student],
  );
  useSeatTurns(term, [...names.keys()], onTurn);
}

/** Until changes can be shown. */
function Waiting({ many }: { many: number }) {
  return many > 0 && <p className="px-[18px] py-5 text-soft">Reading the changes…</p>;
}

function Empty() {
  return (
    <p className="px-[18px] py-5 text-soft">
      Type or paste the reference numbers of sections above. You see at once what each would do;
      nothing happens until you put it through.
    </p>
  );
}
