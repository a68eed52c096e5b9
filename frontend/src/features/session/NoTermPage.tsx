import { useEffect } from "react";
import { Navigate } from "react-router";
import { SignOut } from "./SignOut";
import type { SignedIn } from "./useSignedIn";

/** Where somebody comes who has signed in before the college has a term. */
export function NoTermPage({ session }: { session: SignedIn }) {
  useEffect(() => {
    document.title = "No term yet · Gremba";
  }, []);
  if (session.usual_term) return <Navigate to="/" replace />;
  const isRegistrar = session.person.role === "registrar";
  return (
    <main className="mx-auto max-w-[560px] px-5 py-10 md:py-24">
      <p className="font-serif text-[34px] leading-none font-semibold tracking-tight">Gremba</p>
      <h1 className="mt-8 mb-3 text-[22px]">There is no term yet</h1>
      {isRegistrar ? (
        <>
          <p>
            Welcome, {session.person.full_name}. The college comes in as one folder of tables:
            terms, courses, sections, people. On the machine that serves Gremba:
          </p>
          <p className="number my-3 border border-hair bg-surface px-3 py-2 text-[13px]">
            ./tools/gremba import FOLDER --trial
          </p>
          <p>
            It tells every mistake and what would change; without{" "}
            <span className="number text-[13px]">--trial</span> it is taken over, all of it or
            nothing. What the folder holds is described in{" "}
            <span className="number text-[13px]">docs/exchange.md</span>, and{" "}
            <span className="number text-[13px]">examples/</span> has a small college to begin with.
            Then load this page again.
          </p>
        </>
      ) : (
        <p>The college is being set up. Come back when registration has been announced.</p>
      )}
      <div className="mt-8">
        <SignOut />
      </div>
    </main>
  );
}
