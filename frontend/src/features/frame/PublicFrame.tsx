import { lazy, Suspense } from "react";
import { Outlet, useLocation, useNavigate } from "react-router";
import { Boundary } from "../../ui/Boundary";
import { Button } from "../../ui/Button";
import { Reading } from "../../ui/Page";
import { useSearch } from "../../ui/useSearch";
import type { Session } from "../access/session/useSignedIn";
import { SIGN_IN } from "../catalogue/section/SectionAction";
import { SheetOnDemand } from "../catalogue/section/SheetOnDemand";
import { usePageSubject } from "../students/subject/usePageSubject";
import { ConnectionLine } from "./ConnectionLine";
import { TermChoice, Wordmark } from "./TopBar";
import { useFollowing } from "./useFollowing";

const SignInSheet = lazy(async () => ({
  default: (await import("../access/session/SignInSheet")).SignInSheet,
}));

/** What stands around the pages that need no signing in. */
export function PublicFrame({ session }: { session: Session }) {
  const [search, changeSearch] = useSearch();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  useFollowing(usePageSubject(), false);
  const ask = (open: boolean) =>
    changeSearch((params) => {
      if (open) params.set(SIGN_IN, "");
      else params.delete(SIGN_IN);
    });
  return (
    <div className="flex h-dvh flex-col">
      <header className="flex min-h-[52px] flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-ink px-4 py-1.5 lg:px-5">
        <Wordmark />
        <span className="truncate text-soft max-md:hidden">{session.college}</span>
        <span className="flex-1" />
        <TermChoice terms={session.terms} />
        {session.person ? (
          <Button onClick={() => navigate("/")}>Back to your pages</Button>
        ) : (
          <Button onClick={() => ask(true)}>Sign in</Button>
        )}
      </header>
      <ConnectionLine />
      <main id="main" tabIndex={-1} className="min-h-0 flex-1 overflow-y-auto outline-none">
        <div className="mx-auto max-w-[960px] px-4 pt-4 pb-10">
          <Boundary where="screen" at={pathname}>
            <Suspense fallback={<Reading what="the sections" />}>
              <Outlet />
            </Suspense>
          </Boundary>
        </div>
      </main>
      <SheetOnDemand />
      {search.has(SIGN_IN) && !session.person && (
        <Suspense>
          <SignInSheet onClose={() => ask(false)} />
        </Suspense>
      )}
    </div>
  );
}
