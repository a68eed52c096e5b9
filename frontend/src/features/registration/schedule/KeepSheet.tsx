import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, take } from "../../../api/client";
import { linksQuery, pathOf } from "../../../api/queries";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { Made } from "../../../ui/Made";
import { ProblemNotice } from "../../../ui/Notice";
import { Sheet } from "../../../ui/Sheet";
import { shortMoment } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";

type Props = { open: boolean; onClose: () => void; session: SignedIn };

/** The week to keep: printed, as files, by subscription, and shown to others. */
export function KeepSheet({ open, onClose, session }: Props) {
  const subject = usePageSubject();
  const file = (what: string) =>
    `/api/terms/${subject.term}/week/${what}${subject.student ? `?student=${subject.student}` : ""}`;
  return (
    <Sheet open={open} onClose={onClose} title="Keep or show this week">
      <ul className="space-y-2">
        <li>
          <Link className="link" to={`${subject.base}/schedule/print`}>
            Print it on one page
          </Link>
        </li>
        <li>
          <a className="link" href={file("calendar")} download>
            Calendar file
          </a>
          <span className="text-soft">
            , with every class date; sections without set times are not in it
          </span>
        </li>
        <li>
          <a className="link" href={file("table")} download>
            Table file
          </a>
          <span className="text-soft">, for a spreadsheet</span>
        </li>
        {!subject.student && <MailIt />}
      </ul>
      {!subject.student && <Links session={session} />}
    </Sheet>
  );
}

/** To one's own college address, with the calendar file. */
function MailIt() {
  const { term } = usePageSubject();
  const mail = useMutation({
    mutationFn: () => take(api.POST("/api/terms/{term}/week/mail", { params: { path: { term } } })),
  });
  return (
    <li>
      <Button look="link" disabled={mail.isPending} onClick={() => mail.mutate()}>
        Send it to your college address
      </Button>
      <span className="text-soft" role="status">
        {mail.isPending ? ", sending…" : mail.isSuccess ? ": sent" : ""}
      </span>
      {mail.isError && <ProblemNotice problem={mail.error} />}
    </li>
  );
}

function Links({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const id = useId();
  const client = useQueryClient();
  const query = linksQuery(subject);
  const found = useQuery(query);
  const [days, setDays] = useState(14);
  const params = pathOf(subject);
  const make = useMutation({
    mutationFn: (body: Schemas["LinkWanted"]) =>
      take(api.POST("/api/terms/{term}/week/links", { params, body })),
    onSuccess: ({ links }) => client.setQueryData(query.queryKey, { links }),
  });
  const withdraw = useMutation({
    mutationFn: (link_id: number) =>
      take(
        api.DELETE("/api/terms/{term}/week/links/{link_id}", {
          params: { ...params, path: { ...params.path, link_id } },
        }),
      ),
    onSuccess: (now) => {
      client.setQueryData(query.queryKey, now);
      make.reset();
    },
  });
  const links = found.data?.links ?? [];
  const subscription = links.find(({ kind }) => kind === "calendar");
  const problem = make.error ?? withdraw.error ?? found.error;
  return (
    <>
      <h3 className="mt-6 text-[18px]">Subscribe to it</h3>
      <p className="mb-2 text-[13px] text-soft">
        A calendar program that is given a private address shows your classes and follows every
        change. Whoever knows the address sees them too.
      </p>
      {subscription && (
        <InForce link={subscription} session={session} onWithdraw={withdraw.mutate} />
      )}
      <Button disabled={make.isPending} onClick={() => make.mutate({ kind: "calendar", days: 14 })}>
        {subscription ? "Make a new address in its place" : "Make an address"}
      </Button>
      <h3 className="mt-6 text-[18px]">Show it to somebody</h3>
      <p className="mb-2 text-[13px] text-soft">
        A link for an advisor or a friend: to read only, no signing in, until it expires or you
        withdraw it.
      </p>
      {links
        .filter(({ kind }) => kind === "share")
        .map((link) => (
          <InForce key={link.id} link={link} session={session} onWithdraw={withdraw.mutate} />
        ))}
      <div className="flex items-end gap-3">
        <Field id={id} label="Good for">
          <select
            id={id}
            className={INPUT}
            value={days}
            onChange={(event) => setDays(Number(event.target.value))}
          >
            <option value={1}>a day</option>
            <option value={14}>two weeks</option>
            <option value={60}>two months</option>
          </select>
        </Field>
        <Button disabled={make.isPending} onClick={() => make.mutate({ kind: "share", days })}>
          Make a link
        </Button>
      </div>
      {make.data && <Made path={make.data.path} />}
      {problem && (
        <div className="mt-3">
          <ProblemNotice problem={problem} />
        </div>
      )}
    </>
  );
}

type InForceProps = {
  link: Schemas["LinkResponse"];
  session: SignedIn;
  onWithdraw: (id: number) => void;
};

function InForce({ link, session, onWithdraw }: InForceProps) {
  const at = (moment: string) => shortMoment(new Date(moment), session.zone);
  return (
    <p className="mb-2 flex items-center justify-between gap-3 border-b border-hair pb-1.5 text-[13px]">
      <span>
        {link.kind === "calendar" ? "An address" : "A link"} made {at(link.made_at)}
        {link.expires_at && `, good until ${at(link.expires_at)}`}
      </span>
      <Button look="quiet" onClick={() => onWithdraw(link.id)}>
        Withdraw
      </Button>
    </p>
  );
}
