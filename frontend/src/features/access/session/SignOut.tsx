import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../../api/client";
import { Button } from "../../../ui/Button";

/** Signing out loads the page anew, so that nothing of the person stays on it. */
export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => take(api.DELETE("/api/session")),
    onSuccess: () => {
      client.clear();
      sessionStorage.clear();
      localStorage.clear();
      window.location.assign("/");
    },
  });
}

export function SignOut() {
  const signOut = useSignOut();
  return (
    <Button disabled={signOut.isPending} onClick={() => signOut.mutate()}>
      Sign out
    </Button>
  );
}
