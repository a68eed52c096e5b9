import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { countdown, counted, dueName } from "../../../ui/text";
import { useNow } from "../../../ui/useNow";
import type { SignedIn } from "../../access/session/useSignedIn";
import { FiguresLine } from "./FiguresLine";
import { FiguresTable } from "./FiguresTable";
import { OneOf } from "./OneOf";

type Cart = Schemas["CartResponse"];
type Props = {
  cart: Cart;
  session: SignedIn;
  isSending: boolean;
  onMode: (mode: Cart["mode"]) => void;
  onSend: () => void;
};

const MODES = [
  ["each", "Each change by itself"],
  ["all", "All or nothing"],
] as const;

/** What it would lead to, and the one button that says what it will do. */
export function Foot({ cart, session, isSending, onMode, onSend }: Props) {
  const { before, after, changes } = cart;
  const now = useNow(session.ahead).getTime();
  const wait = cart.ahead ? Date.parse(cart.as_of) - now : 0;
  const differ = changes.filter((change) => change.otherwise).length;
  const { passing } = cart;
  const due = dueNamed(cart, session.zone);
  return (
    <div className="border-t border-ink bg-paper px-[18px] pt-3 pb-4 max-lg:pt-2 max-lg:pb-2.5">
      <div className="max-lg:hidden">
        <FiguresTable before={before} after={after} due={due} cleared={cart.once_clear} />
      </div>
      <FiguresLine cart={cart} due={due} />
      <OneOf
        legend="How the changes depend on one another"
        values={MODES}
        chosen={cart.mode}
        onChoose={onMode}
      />
      {differ > 0 && (
        <p className="-mt-1 mb-2 text-small text-soft">
          {cart.mode === "each"
            ? `With all or nothing, ${counted(differ, "more change", "more changes")} would be stopped.`
            : `Each by itself, ${counted(differ, "change", "changes")} would go through.`}
        </p>
      )}
      <Button
        look="main"
        className="w-full py-2.5 text-[15px]"
        disabled={passing === 0 || isSending || cart.ahead}
        onClick={onSend}
      >
        {isSending
          ? "Putting them through…"
          : cart.ahead
            ? `Window opens in ${countdown(wait)}`
            : passing === 0
              ? "Nothing can go through yet"
              : `Put ${counted(passing, "change", "changes")} through`}
      </Button>
      {cart.once_clear && cart.once_clear.passing > passing && (
        <p className="mt-1.5 text-center text-small text-soft">
          Once you are clear, {counted(cart.once_clear.passing, "change", "changes")} would go
          through{cart.ahead ? " then" : ""}
        </p>
      )}
      {cart.ahead && passing > 0 && (
        <p className="mt-1.5 text-center text-small text-soft">
          {counted(passing, "change", "changes")} would go through then
        </p>
      )}
      {!cart.ahead && passing > 0 && passing < changes.length && (
        <p className="mt-1.5 text-center text-small text-soft">
          {counted(changes.length - passing, "change stays", "changes stay")} in the cart
        </p>
      )}
    </div>
  );
}

/** What is due by the next date, with its name. */
function dueNamed({ due }: Cart, zone: string) {
  return due?.at ? { ...due, name: dueName(due, zone) } : null;
}
