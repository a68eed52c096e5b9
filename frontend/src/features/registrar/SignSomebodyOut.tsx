import { useMutation } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, take } from "../../api/client";
import { Button } from "../../ui/Button";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { counted } from "../../ui/text";
import { UserNameField } from "../../ui/UserNameField";

/** Ends all sessions of somebody, such as one whose device is lost. */
export function SignSomebodyOut() {
  const [username, setUsername] = useState("");
  const signOut = useMutation({
    mutationFn: (name: string) =>
      take(
        api.POST("/api/office/people/{username}/sign-out", {
          params: { path: { username: name } },
        }),
      ),
    onSuccess: () => setUsername(""),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    signOut.mutate(username.trim());
  };
  return (
    <section className="mt-10 border-t border-hair pt-3" aria-labelledby="signed-in">
      <h2 id="signed-in" className="text-[18px]">
        Somebody has lost a device
      </h2>
      <p className="mt-1 max-w-[62ch] text-[13px] text-soft">
        They are signed out everywhere. Nothing of theirs is lost, and they can sign in again at
        once.
      </p>
      <form className="mt-2 flex flex-wrap items-end gap-3" onSubmit={submit}>
        <UserNameField label="Their user name" required value={username} onChange={setUsername} />
        <Button type="submit" disabled={signOut.isPending || !username.trim()}>
          Sign them out
        </Button>
      </form>
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
    </section>
  );
}
