import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../../api/client";
import { sessionsQuery } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Reading } from "../../../ui/Page";
import { Sheet } from "../../../ui/Sheet";
import { shortMoment } from "../../../ui/text";
import { ChangePassword } from "./ChangePassword";
import type { SignedIn } from "./useSignedIn";

type Props = { session: SignedIn; onClose: () => void };

/** Where one is signed in, and signing out everywhere else. */
export function SessionsSheet({ session, onClose }: Props) {
  const { zone } = session;
  const client = useQueryClient();
  const sessions = useQuery(sessionsQuery);
  const closeOthers = useMutation({
    mutationFn: () => take(api.DELETE("/api/sessions")),
    onSuccess: (left) => client.setQueryData(sessionsQuery.queryKey, left),
  });
  const others = (sessions.data?.length ?? 0) - 1;
  return (
    <Sheet open onClose={onClose} title="Where you are signed in">
      {sessions.isError && <ProblemNotice problem={sessions.error} />}
      {sessions.isPending && <Reading what="your sessions" />}
      <ul className="border-t border-ink">
        {sessions.data?.map(({ opened_at, seen_at, browser, is_this }) => (
          <li key={opened_at + browser} className="border-b border-hair py-2.5">
            <p className="font-semibold">
              {browser}
              {is_this && <span className="font-normal text-pine">, here</span>}
            </p>
            <p className="text-[13px] text-soft">
              Since {shortMoment(new Date(opened_at), zone)}, last used{" "}
              {shortMoment(new Date(seen_at), zone)}
            </p>
          </li>
        ))}
      </ul>
      <p className="mt-3 text-[13px] text-soft">
        A session ends by itself after two hours without use, and after twelve in any case.
      </p>
      {closeOthers.isError && <ProblemNotice problem={closeOthers.error} />}
      <div className="mt-4">
        {others > 0 ? (
          <Button look="main" disabled={closeOthers.isPending} onClick={() => closeOthers.mutate()}>
            Sign out everywhere else
          </Button>
        ) : (
          sessions.data && <p role="status">You are signed in nowhere else.</p>
        )}
      </div>
      {!session.demo && <ChangePassword session={session} />}
    </Sheet>
  );
}
