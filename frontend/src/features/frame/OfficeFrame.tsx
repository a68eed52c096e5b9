import { lazy, Suspense } from "react";
import { Outlet, useLocation } from "react-router";
import { Boundary } from "../../ui/Boundary";
import { Reading } from "../../ui/Page";
import type { SignedIn } from "../access/session/useSignedIn";
import { usePageSubject } from "../students/subject/usePageSubject";
import { ConnectionLine } from "./ConnectionLine";
import { TopBar } from "./TopBar";
import { useFollowing } from "./useFollowing";

const SessionEnded = lazy(async () => ({
  default: (await import("../access/session/SessionEnded")).SessionEnded,
}));

/** What stands around the offices' pages: the bar on top, and room. */
export function OfficeFrame({ session }: { session: SignedIn }) {
  const { pathname } = useLocation();
  useFollowing(usePageSubject(), !session.expired);
  return (
    <div className="flex h-dvh flex-col">
      <TopBar session={session} />
      <ConnectionLine />
      <main id="main" className="min-h-0 flex-1 overflow-y-auto">
        <div className="mx-auto max-w-[1060px] px-4 pt-4 pb-10 lg:px-6">
          <Boundary where="screen" at={pathname}>
            <Suspense fallback={<Reading what="the screen" />}>
              <Outlet />
            </Suspense>
          </Boundary>
        </div>
      </main>
      {session.expired && (
        <Suspense>
          <SessionEnded session={session} />
        </Suspense>
      )}
    </div>
  );
}
