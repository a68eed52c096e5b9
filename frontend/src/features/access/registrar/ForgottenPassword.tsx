import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, take } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { Made } from "../../../ui/Made";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { counted, listed } from "../../../ui/text";
import { ForSomebody } from "./ForSomebody";

/** A new link for somebody who has forgotten the password, student or not. */
export function ForgottenPassword() {
  const make = useMutation({
    mutationFn: (name: string) =>
      take(
        api.POST("/api/office/people/{username}/password-link", {
          params: { path: { username: name } },
        }),
      ),
  });
  return (
    <ForSomebody
      title="Somebody has no password, or has forgotten it"
      about="They get a link by mail by which they set one, once and within seven days. Earlier links of theirs are over; the password they have goes on until they set another."
      label="User name"
      button="Send a link"
      isPending={make.isPending}
      onSubmit={make.mutate}
    >
      <ToEverybody />
      <div className="mt-3 max-w-[560px]">
        {make.error && <ProblemNotice problem={make.error} />}
        {make.data?.mailed_to && (
          <Notice tone="note">
            The link went to {make.data.mailed_to}, for {make.data.full_name}.
          </Notice>
        )}
        {make.data?.path && (
          <>
            <Notice tone="warning">
              No mail goes out. Hand this link to {make.data.full_name} and to nobody else.
            </Notice>
            <Made path={make.data.path} />
          </>
        )}
      </div>
    </ForSomebody>
  );
}

/** Links for all who have none, some at a time until there are no more. */
function ToEverybody() {
  const announce = useAnnounce();
  const [so, setSo] = useState({ sent: 0, without: [] as string[] });
  const send = useMutation({
    mutationFn: async () => {
      let [sent, after] = [0, 0 as number | null];
      const without: string[] = [];
      while (after !== null) {
        const now: Schemas["LinksSent"] = await take(
          api.POST("/api/office/people/password-links", { body: { after } }),
        );
        sent += now.sent;
        without.push(...now.without_mail);
        after = now.after;
        setSo({ sent, without });
      }
      return sent;
    },
    onSuccess: (sent) => announce(`${sent} links went out.`),
  });
  return (
    <div className="mt-4 max-w-[560px]">
      <Button disabled={send.isPending} onClick={() => send.mutate()}>
        {send.isPending
          ? `${so.sent.toLocaleString("en-US")} sent…`
          : "Send everybody without a password a link"}
      </Button>
      <div className="mt-2">
        {send.error && <ProblemNotice problem={send.error} />}
        {send.isSuccess && (
          <Notice tone="note">
            {so.sent === 0
              ? "Everybody has a password, or a link on its way."
              : `${counted(so.sent, "link", "links")} went out.`}
            {so.without.length > 0 &&
              ` No mail could be sent to ${listed(so.without.slice(0, 10))}${so.without.length > 10 ? ` and ${so.without.length - 10} more` : ""}.`}
          </Notice>
        )}
      </div>
    </div>
  );
}
