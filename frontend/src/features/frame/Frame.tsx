import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useRef, useState } from "react";
import { Link, Outlet, useLocation } from "react-router";
import { cartQuery, termQuery } from "../../api/queries";
import { Boundary } from "../../ui/Boundary";
import { holdKeys } from "../../ui/heldKeys";
import { ProblemNotice } from "../../ui/Notice";
import { Reading, WhosePages } from "../../ui/Page";
import { useMedia } from "../../ui/useMedia";
import type { SignedIn } from "../access/session/useSignedIn";
import { SheetOnDemand } from "../catalogue/section/SheetOnDemand";
import { useAddAfterSignIn } from "../catalogue/section/useAddAfterSignIn";
import { MineContext, useReadMine } from "../catalogue/section/useMine";
import { Cart } from "../registration/cart/Cart";
import { usePageSubject } from "../students/subject/usePageSubject";
import { ConnectionLine } from "./ConnectionLine";
import { BottomBar, SideRail } from "./Rail";
import { TopBar } from "./TopBar";
import { useFollowing } from "./useFollowing";
import { useKeys } from "./useKeys";

// Not needed for the first view.
const KeysSheet = lazy(async () => ({ default: (await import("./KeysSheet")).KeysSheet }));
const SessionEnded = lazy(async () => ({
  default: (await import("../access/session/SessionEnded")).SessionEnded,
}));
const Palette = lazy(async () => ({ default: (await import("../palette/Palette")).Palette }));

/** What stands around every screen: the bar on top, the rail, and the cart at the right edge. */
export function Frame({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const { pathname } = useLocation();
  const onCart = pathname.endsWith("/cart");
  const isNarrow = useMedia("(max-width: 1023px)");
  const known = useQuery(termQuery(subject.term));
  const cart = useQuery(cartQuery(subject));
  const [showKeys, setShowKeys] = useState(false);
  const [showPalette, setShowPalette] = useState(false);
  // A second press may come before the page is drawn with it.
  const isPaletteOpen = useRef(false);
  const openKeys = useCallback(() => setShowKeys(true), []);
  const openPalette = useCallback(() => {
    if (!isPaletteOpen.current) holdKeys();
    isPaletteOpen.current = true;
    setShowPalette(true);
  }, []);
  const closePalette = () => {
    isPaletteOpen.current = false;
    setShowPalette(false);
  };
  useKeys({
    base: subject.base,
    showKeys: openKeys,
    showPalette: openPalette,
  });
  const count = cart.data?.changes.length ?? 0;
  const mine = useReadMine(subject, true);
  useFollowing(subject, !session.expired);
  useAddAfterSignIn(subject);
  return (
    <MineContext value={mine}>
      <WhosePages value={subject.student ? (cart.data?.student ?? "") : ""}>
        <div className="flex h-dvh flex-col">
          <a
            href="#main"
            className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-surface focus:p-3"
          >
            To the page itself
          </a>
          <TopBar session={session} window={cart.data?.window} />
          {subject.student && (
            <section
              aria-label="Acting for a student"
              className="border-b border-ink bg-shade px-5 py-1.5 text-[13px]"
            >
              You see and act for{" "}
              <strong className="font-semibold">{cart.data?.student ?? "…"}</strong>: “you” on these
              pages is the student. Confirmations say that it was you.{" "}
              <Link className="link" to={subject.back}>
                {session.person.role === "registrar" ? "Back" : "Back to your students"}
              </Link>
            </section>
          )}
          <ConnectionLine />
          <div className="grid min-h-0 flex-1 lg:grid-cols-[138px_1fr_348px]">
            <SideRail onKeys={openKeys} onPalette={openPalette} />
            <main
              id="main"
              // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, by keys as well
              tabIndex={0}
              className={`min-w-0 overflow-y-auto px-4 pt-4 pb-8 -outline-offset-2 lg:px-[22px] ${onCart ? "max-lg:hidden" : ""}`}
            >
              {known.isError && !known.data ? (
                <ProblemNotice problem={known.error} />
              ) : (
                <Boundary where="screen" at={pathname}>
                  <Suspense fallback={<Reading what="the screen" />}>
                    <Outlet />
                  </Suspense>
                </Boundary>
              )}
            </main>
            {/* Where it is the page itself, on a phone, it is the page's main part as well. */}
            {/* biome-ignore lint/a11y/useAriaPropsSupportedByRole: it has one of two roles, which both take a name */}
            <div
              role={onCart && isNarrow ? "main" : "complementary"}
              aria-label="Cart"
              className={`min-h-0 border-ink bg-surface lg:border-l ${onCart ? "" : "max-lg:hidden"}`}
            >
              <Boundary where="cart">
                <Cart session={session} level={onCart && isNarrow ? 1 : 2} />
              </Boundary>
            </div>
          </div>
          <BottomBar count={count} />
          {showKeys && (
            <Suspense>
              <KeysSheet open onClose={() => setShowKeys(false)} />
            </Suspense>
          )}
          <SheetOnDemand />
          {showPalette && (
            <Suspense>
              <Palette open onClose={closePalette} showKeys={openKeys} />
            </Suspense>
          )}
          {session.expired && (
            <Suspense>
              <SessionEnded session={session} />
            </Suspense>
          )}
        </div>
      </WhosePages>
    </MineContext>
  );
}
