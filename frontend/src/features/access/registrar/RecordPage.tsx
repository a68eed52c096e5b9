import { useInfiniteQuery, useMutation } from "@tanstack/react-query";
import { useCallback, useId, useState } from "react";
import { api, type Schemas, take } from "../../../api/client";
import { type RecordSought, recordQuery } from "../../../api/registrarQueries";
import { Button } from "../../../ui/Button";
import { DayField } from "../../../ui/DayField";
import { Field, INPUT } from "../../../ui/Field";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { SearchField } from "../../../ui/SearchField";
import { counted, dayAndTime } from "../../../ui/text";
import { OfficeTabs } from "../../office/OfficeTabs";
import type { SignedIn } from "../session/useSignedIn";
import { useToday } from "../session/useToday";

const KINDS: Schemas["AuditKind"][] = [
  "office act",
  "acted for",
  "signed in",
  "signed out",
  "sign-in failed",
  "sign-in put off",
  "refused",
  "limit met",
  "payment forged",
  "page failed",
];

/** What anybody did for or to anyone, in order; and that nothing of it was altered. */
export function RecordPage({ session }: { session: SignedIn }) {
  const id = useId();
  const today = useToday();
  const [sought, setSought] = useState<RecordSought>({
    words: "",
    kind: "",
    since: "",
    until: "",
  });
  const found = useInfiniteQuery(recordQuery(sought));
  const set = useCallback((change: Partial<RecordSought>) => {
    setSought((now) => ({ ...now, ...change }));
  }, []);
  const onSearch = useCallback((words: string) => set({ words }), [set]);
  const entries = found.data?.pages.flatMap((page) => page.entries) ?? [];
  return (
    <Page title="Record" aside={<OfficeTabs of="registrar" />}>
      <div className="mt-3 border-t border-ink pt-3">
        <p className="max-w-[66ch] text-soft">
          Everything that offices do, and what was refused. What students do themselves is in their
          confirmations. Without days, the last month is shown.
        </p>
      </div>
      <div className="mt-3 flex flex-wrap items-end gap-3">
        <div className="w-72">
          <SearchField
            label="Look for words"
            placeholder="A name, or what was done"
            onSearch={onSearch}
          />
        </div>
        <Field id={`${id}-kind`} label="Kind">
          <select
            id={`${id}-kind`}
            className={INPUT}
            value={sought.kind}
            onChange={(event) => set({ kind: event.target.value as RecordSought["kind"] })}
          >
            <option value="">All</option>
            {KINDS.map((kind) => (
              <option key={kind}>{kind}</option>
            ))}
          </select>
        </Field>
        <div className="w-32">
          <DayField
            label="From"
            today={today}
            value={sought.since}
            onChange={(since) => set({ since })}
          />
        </div>
        <div className="w-32">
          <DayField
            label="Through"
            today={today}
            value={sought.until}
            onChange={(until) => set({ until })}
          />
        </div>
        <a className="link pb-2" href={`/api/record/file?${fileQuery(sought)}`} download>
          As a table file
        </a>
      </div>
      <Chain session={session} />
      {found.isPending && <Reading what="the record" />}
      {found.isError && <ProblemNotice problem={found.error} />}
      {found.data && entries.length === 0 && (
        <p className="mt-5 border-t border-ink py-3">Nothing of that is on record.</p>
      )}
      {entries.length > 0 && <Entries entries={entries} session={session} />}
      {found.hasNextPage && (
        <Button className="mt-3" onClick={() => found.fetchNextPage()}>
          Earlier ones
        </Button>
      )}
    </Page>
  );
}

function fileQuery({ words, kind, since, until }: RecordSought): string {
  const named = Object.entries({ words, kind, since, until }).filter(([, value]) => value);
  return new URLSearchParams(named).toString();
}

type EntriesProps = { entries: Schemas["AuditEntryResponse"][]; session: SignedIn };

function Entries({ entries, session }: EntriesProps) {
  return (
    <div className="mt-4 relative overflow-x-auto">
      <table className="w-full border-t border-ink text-[13px]">
        <thead>
          <tr className="border-b border-hair text-left text-small text-soft">
            <th className="w-14 py-1.5 pr-4 text-right font-normal">No.</th>
            <th className="w-32 pr-4 font-normal">When</th>
            <th className="w-44 pr-4 font-normal">Who</th>
            <th className="pr-4 font-normal">What</th>
            <th className="w-44 font-normal">About</th>
          </tr>
        </thead>
        <tbody>
          {entries.map((entry) => (
            <tr key={entry.id} className="border-b border-hair align-baseline">
              <td className="number py-1.5 pr-4 text-right text-soft">{entry.id}</td>
              <td className="pr-4 whitespace-nowrap">
                {dayAndTime(new Date(entry.at), session.zone)}
              </td>
              <td className="pr-4">
                {entry.person || entry.account || "Nobody signed in"}
                {entry.address && (
                  <span className="block text-small text-soft">{entry.address}</span>
                )}
              </td>
              <td className="pr-4 break-words">
                {entry.kind === "office act" || entry.kind === "acted for" ? (
                  sentence(entry.detail)
                ) : (
                  <>
                    <span className={BAD.has(entry.kind) ? "text-madder" : ""}>
                      {sentence(entry.kind)}
                    </span>
                    {!PLAIN.has(entry.kind) && (
                      <span className="block text-small text-soft">{entry.detail}</span>
                    )}
                  </>
                )}
              </td>
              <td>{entry.student}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function sentence(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** What says all there is to say. */
const PLAIN = new Set(["signed in", "signed out"]);
const BAD = new Set(["sign-in failed", "refused", "payment forged", "page failed"]);

/** Going through the chain of digests. */
function Chain({ session }: { session: SignedIn }) {
  const verify = useMutation({ mutationFn: () => take(api.GET("/api/record/chain")) });
  const chain = verify.data;
  return (
    <div className="mt-3" aria-live="polite">
      <Button disabled={verify.isPending} onClick={() => verify.mutate()}>
        {verify.isPending ? "Going through it…" : "Verify that nothing was altered"}
      </Button>
      <div className="mt-2">
        {verify.error && <ProblemNotice problem={verify.error} />}
        {chain && chain.breaks.length === 0 && chain.many > 0 && (
          <Notice tone="note">
            {counted(chain.many, "entry is", "entries are")} as written
            {chain.first_at && `, from ${dayAndTime(new Date(chain.first_at), session.zone)} on`}.
            Note the last digest elsewhere, and it can be held against the record later:{" "}
            <span className="number break-all">{chain.last}</span>
          </Notice>
        )}
        {chain && chain.many === 0 && <Notice tone="note">Nothing is on record yet.</Notice>}
        {chain && chain.breaks.length > 0 && (
          <Notice tone="stop">
            <p className="font-semibold">The record has been altered.</p>
            <ul>
              {chain.breaks.map(({ entry, what }) => (
                <li key={`${entry}${what}`}>
                  Entry {entry} {what}.
                </li>
              ))}
            </ul>
          </Notice>
        )}
      </div>
    </div>
  );
}
