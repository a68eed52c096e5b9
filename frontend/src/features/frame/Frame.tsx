import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Outlet, useLocation, useParams } from "react-router";
import { useConnection } from "../../api/connection";
import { cartQuery, termQuery } from "../../api/queries";
import { ProblemNotice } from "../../ui/Notice";
import { Sheet } from "../../ui/Sheet";
import { Cart } from "../cart/Cart";
import { SignInForm } from "../session/SignInForm";
import type { SignedIn } from "../session/useSignedIn";
import { KeysSheet, useKeys } from "./Keys";
import { BottomBar, SideRail } from "./Rail";
import { TopBar } from "./TopBar";

/** What stands around every screen: the bar on top, the rail, and the cart at the right edge. */
export function Frame({ session }: { session: SignedIn }) {
  const { term = "" } = useParams();
  const onCart = useLocation().pathname.endsWith("/cart");
  const known = useQuery(termQuery(term));
  const cart = useQuery(cartQuery(term));
  const [showKeys, setShowKeys] = useState(false);
  useKeys({ term, showKeys: () => setShowKeys(true) });
  const count = cart.data?.changes.length ?? 0;
  return (
    <div className="flex h-dvh flex-col">
      <a
        href="#main"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-surface focus:p-3"
      >
        To the page itself
      </a>
      <TopBar session={session} term={term} window={cart.data?.window} />
      <ConnectionLine />
      <div className="grid min-h-0 flex-1 lg:grid-cols-[138px_1fr_348px]">
        <SideRail term={term} onKeys={() => setShowKeys(true)} />
        <main
          id="main"
          tabIndex={-1}
          className={`min-w-0 overflow-y-auto px-4 pt-4 pb-8 outline-none lg:px-[22px] ${onCart ? "max-lg:hidden" : ""}`}
        >
          {known.isError ? <ProblemNotice problem={known.error} /> : <Outlet />}
        </main>
        <aside
          aria-label="Cart"
          className={`min-h-0 border-ink bg-surface lg:border-l ${onCart ? "" : "max-lg:hidden"}`}
        >
          <Cart session={session} term={term} />
        </aside>
      </div>
      <BottomBar term={term} count={count} />
      <KeysSheet open={showKeys} onClose={() => setShowKeys(false)} />
      <Sheet open={session.expired} title="Your session has ended">
        <p className="mb-4 text-soft">
          Sign in again and go on where you were. Your cart is kept, and so is what you have typed.
        </p>
        <SignInForm username={session.person.username} />
      </Sheet>
    </div>
  );
}

function ConnectionLine() {
  const state = useConnection();
  return (
    <div aria-live="polite">
      {state === "lost" && (
        <p className="border-b border-ink bg-madder-tint px-5 py-1.5 text-[13px]">
          <strong className="font-semibold text-madder">No answer from the server.</strong> This
          page tries again by itself. Your cart is kept; what is shown may be a little old.
        </p>
      )}
    </div>
  );
}
