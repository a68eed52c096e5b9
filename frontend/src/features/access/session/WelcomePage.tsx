import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { api, take } from "../../../api/client";
import { ProblemNotice } from "../../../ui/Notice";
import { Reading } from "../../../ui/Page";
import { PasswordFields } from "./PasswordFields";
import { SignInForm } from "./SignInForm";
import type { Session } from "./useSignedIn";

/** Where the link leads by which somebody sets their password. Its secret stands behind the #, which
 *  browsers keep to themselves. */
export function WelcomePage({ session }: { session: Session }) {
  const [token] = useState(() => window.location.hash.slice(1));
  useEffect(() => {
    document.title = "Set your password · Gremba";
  }, []);
  const owner = useQuery({
    queryKey: ["password link", token],
    queryFn: () => take(api.POST("/api/password-links/look", { body: { token: token || "none" } })),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const set = useMutation({
    mutationFn: (password: string) =>
      take(api.POST("/api/password-links", { body: { token, password } })),
  });
  const isSet = set.isSuccess;
  return (
    <main className="mx-auto max-w-[420px] px-5 py-10 md:py-24">
      <p className="font-serif text-[34px] leading-none font-semibold tracking-tight">Gremba</p>
      <p className="mt-2 mb-8 text-soft">{session.college}</p>
      <h1 className="mb-4 text-[22px]">{isSet ? "Your password is set" : "Set your password"}</h1>
      {owner.isPending && <Reading what="the link" />}
      {owner.isError && (
        <>
          <ProblemNotice problem={owner.error} />
          <p className="mt-4">
            <Link className="link" to="/">
              To the first page
            </Link>
          </p>
        </>
      )}
      {owner.data && !isSet && (
        <>
          <p className="mb-4">
            Welcome, {owner.data.full_name}. You sign in as{" "}
            <span className="number">{owner.data.username}</span>.
          </p>
          {set.isError && (
            <div className="mb-4">
              <ProblemNotice problem={set.error} />
            </div>
          )}
          <PasswordFields
            names={[owner.data.username, ...owner.data.full_name.split(" ")]}
            isPending={set.isPending}
            word="Set the password"
            onSet={(password) => set.mutate(password)}
          />
        </>
      )}
      {owner.data && isSet && (
        <>
          <p className="mb-4">The link is used up. Sign in with your new password.</p>
          <SignInForm username={owner.data.username} />
        </>
      )}
    </main>
  );
}
