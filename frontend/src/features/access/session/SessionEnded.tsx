import { Sheet } from "../../../ui/Sheet";
import { SignInForm } from "./SignInForm";
import type { SignedIn } from "./useSignedIn";

/** Over the page when the session has ended by itself: nothing on it is lost. */
export function SessionEnded({ session }: { session: SignedIn }) {
  return (
    <Sheet open={session.expired} title="Your session has ended">
      <p className="mb-4 text-soft">
        Sign in again and go on where you were. Nothing is lost: a cart is kept, and so is what you
        have typed.
      </p>
      <SignInForm username={session.person.username} />
    </Sheet>
  );
}
