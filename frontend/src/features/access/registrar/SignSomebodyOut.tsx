import { useMutation } from "@tanstack/react-query";
import { api, take } from "../../../api/client";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { counted } from "../../../ui/text";
import { ForSomebody } from "./ForSomebody";

/** Ends all sessions of somebody, such as one whose device is lost. */
export function SignSomebodyOut() {
  const signOut = useMutation({
    mutationFn: (name: string) =>
      take(
        api.POST("/api/office/people/{username}/sign-out", {
          params: { path: { username: name } },
        }),
      ),
  });
  return (
    <ForSomebody
      title="Somebody has lost a device"
      about="They are signed out everywhere. Nothing of theirs is lost, and they can sign in again at once."
      label="Their user name"
      button="Sign them out"
      isPending={signOut.isPending}
      onSubmit={signOut.mutate}
    >
      <div className="mt-3 max-w-[560px]">
        {signOut.error && <ProblemNotice problem={signOut.error} />}
        {signOut.data && (
          <Notice tone="note">
            {signOut.data.full_name} was signed in{" "}
            {signOut.data.sessions
              ? `on ${counted(signOut.data.sessions, "device", "devices")} and is signed out.`
              : "nowhere."}
          </Notice>
        )}
      </div>
    </ForSomebody>
  );
}
