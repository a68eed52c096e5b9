import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, rememberToken, type Schemas, take } from "../../../api/client";
import { sessionQuery } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";

/** A session that has been opened is the one in force; everything on the page is read again. */
export function useBegin() {
  const client = useQueryClient();
  return (session: Schemas["SessionResponse"]) => {
    rememberToken(session.csrf_token);
    client.setQueryData(sessionQuery.queryKey, {
      ...session,
      ahead: Date.parse(session.now) - Date.now(),
    });
    client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== "session" });
  };
}

export function useSignIn() {
  return useMutation({
    mutationFn: (body: { username: string; password: string }) =>
      take(api.POST("/api/session", { body })),
    onSuccess: useBegin(),
    // A wrong password says nothing of a session that there is.
    meta: { signsIn: true },
  });
}

export function SignInForm({ username = "" }: { username?: string }) {
  const id = useId();
  const signIn = useSignIn();
  const [name, setName] = useState(username);
  const [password, setPassword] = useState("");
  const field =
    "mt-1 mb-4 block w-full rounded-sm border border-ink bg-white px-3 py-2 text-[15px]";
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        signIn.mutate({ username: name, password });
      }}
    >
      <label htmlFor={`${id}-name`}>Name</label>
      <input
        id={`${id}-name`}
        className={field}
        autoComplete="username"
        autoCapitalize="none"
        required
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <label htmlFor={`${id}-password`}>Password</label>
      <input
        id={`${id}-password`}
        className={field}
        type="password"
        autoComplete="current-password"
        required
        value={password}
        onChange={(event) => setPassword(event.target.value)}
      />
      {signIn.isError && (
        <div className="mb-4">
          <ProblemNotice problem={signIn.error} />
        </div>
      )}
      <Button look="main" type="submit" className="w-full" disabled={signIn.isPending}>
        {signIn.isPending ? "Signing in…" : "Sign in"}
      </Button>
    </form>
  );
}
