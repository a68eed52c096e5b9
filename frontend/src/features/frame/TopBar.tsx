import { lazy, Suspense, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dropdown } from "../../ui/Dropdown";
import { SignOut } from "../access/session/SignOut";
import type { SignedIn } from "../access/session/useSignedIn";
import { MessagesLink, News } from "../messages/News";
import { usePageSubject } from "../students/subject/usePageSubject";
import { ClockChip } from "./ClockChip";
import { CHIP } from "./chip";
import { WindowState } from "./WindowState";

type Props = { session: SignedIn; window?: Schemas["WindowResponse"] | undefined };

// Not needed for the first view.
const SessionsSheet = lazy(async () => ({
  default: (await import("../access/session/SessionsSheet")).SessionsSheet,
}));

/** The bar on top: one line, at every width. What does not fit on a phone is behind the initials. */
export function TopBar({ session, window }: Props) {
  const [showSessions, setShowSessions] = useState(false);
  return (
    <header className="group/bar flex min-h-[52px] items-center gap-x-3 border-b border-ink px-4 py-1.5 max-[350px]:gap-x-1.5 max-[350px]:px-3 lg:gap-x-5 lg:px-5 short:min-h-[40px] short:py-0.5">
      <Wordmark />
      <span className="min-w-0 shrink truncate text-soft max-xl:hidden group-has-data-offer/bar:max-[1500px]:hidden">
        {session.college}
      </span>
      <span className="flex-1" />
      <span className="contents max-lg:hidden">
        <TermChoice terms={session.terms} />
      </span>
      <WindowState session={session} window={window} />
      {window && <News session={session} />}
      <span className="contents max-lg:hidden">
        <ClockChip session={session} />
      </span>
      <Dropdown
        className="whitespace-nowrap max-lg:grid max-lg:size-[30px] max-lg:shrink-0 max-lg:place-items-center max-lg:rounded-full max-lg:border max-lg:border-ink max-lg:text-[12px] font-semibold hover:underline"
        face={
          <>
            <span className="block max-w-[180px] truncate max-lg:sr-only">
              {session.person.full_name}
            </span>
            <span className="lg:hidden" aria-hidden>
              {initials(session.person.full_name)}
            </span>
          </>
        }
        title="Your session"
        align="end"
        look="w-[250px] p-4"
      >
        <div className="mb-3 space-y-2.5 border-b border-hair pb-3 lg:hidden">
          <p className="font-semibold">{session.person.full_name}</p>
          <p className="text-soft">{session.college}</p>
          <TermChoice terms={session.terms} />
          <p>
            <ClockChip session={session} />
          </p>
          {window && <MessagesLink />}
        </div>
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
          <SessionsSheet session={session} onClose={() => setShowSessions(false)} />
        </Suspense>
      )}
    </header>
  );
}

function initials(name: string): string {
  const parts = name.split(/\s+/).filter(Boolean);
  return [parts[0], parts.length > 1 ? parts.at(-1) : ""]
    .map((part) => part?.charAt(0) ?? "")
    .join("");
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
      className={`${CHIP} max-w-full font-semibold`}
      value={terms.some((t) => t.code === term) ? term : ""}
      onChange={(event) => navigate(pathname.replace(term, event.target.value))}
    >
      {!terms.some((t) => t.code === term) && <option value="">Choose a term</option>}
      {terms.map(({ code, name, state }) => (
        <option key={code} value={code}>
          {name}
          {state === "in preparation" && " (in preparation)"}
        </option>
      ))}
    </select>
  );
}
