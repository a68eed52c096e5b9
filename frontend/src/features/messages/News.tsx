import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { newsQuery } from "../../api/queries";
import { countdown, counted } from "../../ui/text";
import { useNow } from "../../ui/useNow";
import type { SignedIn } from "../access/session/useSignedIn";
import { usePageSubject } from "../students/subject/usePageSubject";

/** In the top bar: an open offer with its clock, and messages not read. */
export function News({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const news = useQuery(newsQuery(subject));
  const now = useNow(session.ahead).getTime();
  if (!news.data) return null;
  const { offers, first_lapses } = news.data;
  return (
    <>
      {offers > 0 && first_lapses && (
        <Link
          to={`${subject.base}/waitlists`}
          data-offer
          className="rounded-sm border border-plum px-2.5 py-1 font-semibold whitespace-nowrap text-plum hover:bg-plum hover:text-white max-sm:px-1.5 max-sm:text-small"
        >
          {counted(offers, "offer", "offers")}, {countdown(Date.parse(first_lapses) - now)}
          <span className="max-lg:sr-only"> left</span>
        </Link>
      )}
      <span className="contents max-lg:hidden">
        <MessagesLink />
      </span>
    </>
  );
}

/** To the messages, with how many are not read. */
export function MessagesLink() {
  const subject = usePageSubject();
  const unread = useQuery(newsQuery(subject)).data?.unread ?? 0;
  return (
    <Link to={`${subject.base}/messages`} className="py-1 whitespace-nowrap hover:underline">
      {unread ? (
        <b className="font-semibold">{counted(unread, "message", "messages")}</b>
      ) : (
        <span className="text-soft">Messages</span>
      )}
    </Link>
  );
}
