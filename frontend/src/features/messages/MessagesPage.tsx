import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { api, take } from "../../api/client";
import { messagesQuery, newsQuery, pathOf } from "../../api/queries";
import { ProblemNotice } from "../../ui/Notice";
import { Page, Reading } from "../../ui/Page";
import { shortMoment } from "../../ui/text";
import type { SignedIn } from "../access/session/useSignedIn";
import { usePageSubject } from "../students/subject/usePageSubject";

/** Messages of the term, newest first; they also go to the college address. */
export function MessagesPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const client = useQueryClient();
  const found = useQuery(messagesQuery(subject));
  const news = newsQuery(subject);
  const { mutate } = useMutation({
    mutationFn: (id: number) =>
      take(api.PUT("/api/terms/{term}/messages/read", { params: pathOf(subject), body: { id } })),
    onSuccess: (now) => client.setQueryData(news.queryKey, now),
  });
  const newest = found.data?.messages.find(({ read_at }) => read_at === null)?.id;
  const isOwn = !subject.student;
  useEffect(() => {
    // What is on the screen has been read; which were new stays to be seen until the next visit.
    if (newest && isOwn) mutate(newest);
  }, [newest, isOwn, mutate]);
  const messages = found.data?.messages ?? [];
  return (
    <Page title="Messages" aside="also sent to your college address">
      {found.isPending && <Reading what="your messages" />}
      {found.isError && !found.data && <ProblemNotice problem={found.error} />}
      {found.data && messages.length === 0 && (
        <p className="mt-4 border-t border-ink py-4 text-soft">
          There are none yet. Offers from waitlists and what becomes of your places are told here.
        </p>
      )}
      <ul className="mt-4 border-t border-ink">
        {messages.map(({ id, title, body, made_at, until, read_at }) => (
          <li key={id} className="border-b border-hair py-3">
            <h2 className="font-sans text-[15px] font-semibold">
              {title}
              {!read_at && <span className="ml-2 text-small font-normal text-plum">new</span>}
            </h2>
            <p className="text-small text-soft">{shortMoment(new Date(made_at), session.zone)}</p>
            <p className="mt-1 max-w-[68ch]">{body}</p>
            {until && (
              <Link className="link text-[13px]" to={`${subject.base}/waitlists`}>
                To your waitlists
              </Link>
            )}
          </li>
        ))}
      </ul>
    </Page>
  );
}
