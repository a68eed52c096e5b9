import { lazy, Suspense } from "react";
import { Dropdown } from "../../ui/Dropdown";
import { shortMoment } from "../../ui/text";
import { useNow } from "../../ui/useNow";
import type { SignedIn } from "../access/session/useSignedIn";
import { CHIP } from "./chip";

// Not needed for the first view.
const ClockPanel = lazy(async () => ({ default: (await import("./ClockPanel")).ClockPanel }));

/** The campus time; in the demo it opens the panel that moves it. */
export function ClockChip({ session }: { session: SignedIn }) {
  const now = shortMoment(useNow(session.ahead), session.zone);
  if (!session.demo) return <time className={`${CHIP} number`}>{now}</time>;
  return (
    <Dropdown
      className={`${CHIP} number hover:border-ink`}
      face={now}
      name={`Campus clock: ${now}`}
      title="Campus clock"
      align="end"
      look="max-h-[80dvh] w-[310px] overflow-auto p-4"
    >
      <Suspense>
        <ClockPanel session={session} />
      </Suspense>
    </Dropdown>
  );
}
