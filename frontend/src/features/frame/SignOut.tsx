import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { Button } from "../../ui/Button";

export function SignOut() {
  const client = useQueryClient();
  const signOut = useMutation({
    mutationFn: () => take(api.DELETE("/api/session")),
    onSuccess: () => {
      client.clear();
      window.location.assign("/");
    },
  });
  return (
    <Button disabled={signOut.isPending} onClick={() => signOut.mutate()}>
      Sign out
    </Button>
  );
}
