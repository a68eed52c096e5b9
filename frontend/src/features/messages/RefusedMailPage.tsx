import { useInfiniteQuery } from "@tanstack/react-query";
import { refusedMailQuery } from "../../api/queries";
import { Button } from "../../ui/Button";
import { ProblemNotice } from "../../ui/Notice";
import { Page, Reading } from "../../ui/Page";
import { shortMoment } from "../../ui/text";
import type { SignedIn } from "../access/session/useSignedIn";
import { OfficeTabs } from "../office/OfficeTabs";

/** Mail to students that a mail server will never take as it is. */
export function RefusedMailPage({ session }: { session: SignedIn }) {
  const found = useInfiniteQuery(refusedMailQuery);
  const mails = found.data?.pages.flatMap((page) => page.mails) ?? [];
  return (
    <Page title="Mail that did not arrive" aside={<OfficeTabs of="registrar" />}>
      <p className="mt-2 max-w-[62ch] text-soft">
        A student’s mail server refuses these for good. The students find the messages in Gremba all
        the same; ask them for an address that works.
      </p>
      {found.isPending && <Reading what="the mail" />}
      {found.isError && <ProblemNotice problem={found.error} />}
      {found.data && mails.length === 0 && (
        <p className="mt-5 border-t border-ink py-3">Everything has been taken so far.</p>
      )}
      {mails.length > 0 && (
        <div className="mt-5 overflow-x-auto">
          <table className="w-full border-t border-ink text-[13px]">
            <thead>
              <tr className="border-b border-hair text-left text-small text-soft">
                <th className="py-1.5 pr-4 font-normal">Student</th>
                <th className="pr-4 font-normal">Message</th>
                <th className="pr-4 font-normal">What the mail server said</th>
                <th className="text-right font-normal">Refused</th>
              </tr>
            </thead>
            <tbody>
              {mails.map((mail) => (
                <tr key={mail.id} className="border-b border-hair align-top">
                  <td className="py-1.5 pr-4">
                    <span className="font-semibold">{mail.student}</span>
                    <br />
                    <span className="text-small text-soft">{mail.address}</span>
                  </td>
                  <td className="pr-4 pt-1.5">{mail.title}</td>
                  <td className="pr-4 pt-1.5 text-madder">{mail.problem}</td>
                  <td className="pt-1.5 text-right whitespace-nowrap text-soft">
                    {shortMoment(new Date(mail.refused_at), session.zone)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {found.hasNextPage && (
        <Button className="mt-3" onClick={() => found.fetchNextPage()}>
          Earlier ones
        </Button>
      )}
    </Page>
  );
}
