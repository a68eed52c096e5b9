import { Page } from "../../ui/Page";
import { SignOut } from "../frame/SignOut";
import type { SignedIn } from "../session/useSignedIn";

/** The registrar's pages are still to come; say so rather than show an empty one. */
export function OfficePage({ session }: { session: SignedIn }) {
  return (
    <main className="mx-auto max-w-md px-5 py-16">
      <Page title={session.person.full_name}>
        <p className="mt-3 mb-6 text-soft">
          You are signed in as {session.person.role}. This version of Gremba has pages for students,
          advisors, instructors and the cashier.
        </p>
        <SignOut />
      </Page>
    </main>
  );
}
