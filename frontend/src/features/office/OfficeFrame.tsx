import { Outlet } from "react-router";
import { ConnectionLine } from "../frame/ConnectionLine";
import { TopBar } from "../frame/TopBar";
import { SessionEnded } from "../session/SessionEnded";
import type { SignedIn } from "../session/useSignedIn";

/** What stands around the offices' pages: the bar on top, and room. */
export function OfficeFrame({ session }: { session: SignedIn }) {
  return (
    <div className="flex h-dvh flex-col">
      <TopBar session={session} />
      <ConnectionLine />
      <main id="main" className="min-h-0 flex-1 overflow-y-auto">
        <div className="mx-auto max-w-[1060px] px-4 pt-4 pb-10 lg:px-6">
          <Outlet />
        </div>
      </main>
      <SessionEnded session={session} />
    </div>
  );
}
