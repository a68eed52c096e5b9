import { lazy, Suspense, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dropdown } from "../../ui/Dropdown";
import { SignOut } from "../session/SignOut";
import type { SignedIn } from "../session/useSignedIn";
import { usePageSubject } from "../subject/usePageSubject";
import { News } from "../waitlists/News";
import { ClockChip } from "./ClockChip";
import { CHIP } from "./chip";
import { WindowState } from "./WindowState";

type Props = { session: SignedIn; window?: Schemas["WindowResponse"] | undefined };

// Not needed for the first view.
const SessionsSheet = lazy(async () => ({
  default: (await import("../session/SessionsSheet")).SessionsSheet,
}));

export function TopBar({ session, window }: Props) {
  const [showSessions, setShowSessions] = useState(false);
  return (
    <header className="flex min-h-[52px] flex-wrap lg:flex-nowrap items-center gap-x-3 gap-y-1.5 border-b lg:gap-x-5 border-ink px-4 py-1.5 lg:px-5">
      <Wordmark />
      <span className="min-w-0 shrink truncate text-soft max-xl:hidden">{session.college}</span>
      <span className="flex-1" />
      <TermChoice terms={session.terms} />
      <WindowState session={session} window={window} />
      {window && <News session={session} />}
      <ClockChip session={session} />
      <Dropdown
        className="font-semibold whitespace-nowrap hover:underline max-lg:order-1 max-sm:text-small"
        face={session.person.full_name}
        title="Your session"
        align="end"
        look="p-4"
      >
        <p className="mb-3 text-soft">
          Signed in as <span className="number">{session.person.username}</span>
        </p>
        <p className="mb-3">
          <Button look="link" onClick={() => setShowSessions(true)}>
            Where you are signed in
          </Button>
        </p>
        <SignOut />
      </Dropdown>
      {showSessions && (
        <Suspense>
          <SessionsSheet zone={session.zone} onClose={() => setShowSessions(false)} />
        </Suspense>
      )}
    </header>
  );
}

export function Wordmark() {
  return (
    <span className="font-serif text-[23px] leading-none font-semibold tracking-tight">Gremba</span>
  );
}

export function TermChoice({ terms }: { terms: Schemas["TermName"][] }) {
  const { term } = usePageSubject();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  return (
    <select
      aria-label="Term"
      className={`${CHIP} font-semibold`}
      value={terms.some((t) => t.code === term) ? term : ""}
      onChange={(event) => navigate(pathname.replace(term, event.target.value))}
    >
      {!terms.some((t) => t.code === term) && <option value="">Choose a term</option>}
      {terms.map(({ code, name }) => (
        <option key={code} value={code}>
          {name}
        </option>
      ))}
    </select>
  );
}
