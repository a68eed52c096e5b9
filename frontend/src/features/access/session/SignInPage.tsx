import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { demoPeopleQuery } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { SignInForm, useSignIn } from "./SignInForm";
import type { Session } from "./useSignedIn";

export function SignInPage({ session }: { session: Session }) {
  useEffect(() => {
    document.title = "Sign in · Gremba";
  }, []);
  return (
    <main className="mx-auto grid max-w-[900px] gap-x-16 gap-y-10 px-5 py-10 md:grid-cols-[320px_1fr] md:py-24">
      <div>
        <p className="font-serif text-[34px] leading-none font-semibold tracking-tight">Gremba</p>
        <p className="mt-2 mb-8 text-soft">{session.college}</p>
        <h1 className="mb-4 text-[22px]">Sign in</h1>
        <SignInForm />
        {session.usual_term ? (
          <p className="mt-5 text-[13px]">
            <Link className="link" to={`/${session.usual_term}/find`}>
              Look through the sections without signing in
            </Link>
          </p>
        ) : (
          <p className="mt-5 text-[13px] text-soft">
            There is no term yet: the college is being set up.
          </p>
        )}
      </div>
      {session.demo && <People />}
    </main>
  );
}

function People() {
  const people = useQuery(demoPeopleQuery);
  const signIn = useSignIn();
  if (!people.data) return null;
  const { password } = people.data;
  return (
    <section aria-labelledby="demo-people" className="md:pt-1">
      <h2 id="demo-people" className="text-[22px]">
        The demo’s people
      </h2>
      <p className="mt-1 mb-4 text-soft">
        All made up. Everybody’s password is <span className="number text-ink">{password}</span>.
      </p>
      <ul className="border-t border-ink">
        {people.data.people.map((person) => (
          <li
            key={person.username}
            className="flex items-center justify-between gap-6 border-b border-hair py-3"
          >
            <div>
              <p>
                <strong className="font-semibold">{person.full_name}</strong>
                <span className="text-soft">
                  , {person.who} (<span className="number">{person.username}</span>)
                </span>
              </p>
              <p className="text-[13px] text-soft">{person.situation}</p>
            </div>
            <Button
              className="shrink-0"
              disabled={signIn.isPending}
              onClick={() => signIn.mutate({ username: person.username, password })}
            >
              Sign in<span className="sr-only"> as {person.full_name}</span>
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
