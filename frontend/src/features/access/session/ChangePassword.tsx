import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, take } from "../../../api/client";
import { sessionsQuery } from "../../../api/queries";
import { Field, INPUT } from "../../../ui/Field";
import { ProblemNotice } from "../../../ui/Notice";
import { PasswordFields } from "./PasswordFields";
import { useBegin } from "./SignInForm";
import type { SignedIn } from "./useSignedIn";

/** Another password in the place of the one that is signed in with. */
export function ChangePassword({ session }: { session: SignedIn }) {
  const id = useId();
  const client = useQueryClient();
  const begin = useBegin();
  const [old, setOld] = useState("");
  const { username, full_name } = session.person;
  const change = useMutation({
    mutationFn: (password: string) =>
      take(api.PUT("/api/password", { body: { old, new: password } })),
    onSuccess: (session) => {
      // All sessions have ended; a new one was opened here.
      begin(session);
      return client.invalidateQueries({ queryKey: sessionsQuery.queryKey });
    },
  });
  if (change.isSuccess)
    return (
      <p role="status" className="mt-5 border-t border-hair pt-4">
        Your password is changed. You are signed in here only.
      </p>
    );
  return (
    <details className="mt-5 border-t border-hair pt-3">
      <summary className="w-fit py-1">Change the password</summary>
      <div className="mt-2 mb-3">
        <Field id={id} label="The one you have">
          <input
            id={id}
            className={INPUT}
            type="password"
            autoComplete="current-password"
            value={old}
            onChange={(event) => setOld(event.target.value)}
          />
        </Field>
      </div>
      {change.isError && (
        <div className="mb-3">
          <ProblemNotice problem={change.error} />
        </div>
      )}
      <PasswordFields
        names={[username, ...full_name.split(" ")]}
        isPending={change.isPending}
        word="Change it"
        onSet={(password) => change.mutate(password)}
      />
    </details>
  );
}
