import { Sheet } from "../../../ui/Sheet";
import { SignInForm } from "./SignInForm";

/** Signing in over the page that one was looking at. */
export function SignInSheet({ onClose }: { onClose: () => void }) {
  return (
    <Sheet open onClose={onClose} title="Sign in">
      <p className="mb-4 text-soft">
        To put sections into a cart. What you were looking at stays as it is.
      </p>
      <SignInForm />
    </Sheet>
  );
}
