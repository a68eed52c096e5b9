import { type ReactNode, useEffect } from "react";
import { Navigate } from "react-router";
import { SignOut } from "./SignOut";
import type { SignedIn } from "./useSignedIn";

type Props = {
  session: SignedIn;
  /** By which the registrar brings the college in. */
  children: ReactNode;
};

/** Where somebody comes who has signed in before the college has a term. */
export function NoTermPage({ session, children }: Props) {
  useEffect(() => {
    document.title = "No term yet · Gremba";
  }, []);
  if (session.usual_term) return <Navigate to="/" replace />;
  const isRegistrar = session.person.role === "registrar";
  return (
    <main className="mx-auto max-w-[680px] px-5 py-10 md:py-16">
      <p className="font-serif text-[34px] leading-none font-semibold tracking-tight">Gremba</p>
      <h1 className="mt-8 mb-3 text-[22px]">There is no term yet</h1>
      {isRegistrar ? (
        <>
          <p>
            Welcome, {session.person.full_name}. The college comes in as one folder of tables:
            terms, courses, sections, people. Fill a{" "}
            <a className="link" href="/api/exchange/template?form=xlsx" download>
              template
            </a>
            , or begin with the small college in{" "}
            <span className="number text-[13px]">examples/</span>, packed as a .zip. Then open the
            term.
          </p>
          <div className="mt-6">{children}</div>
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
