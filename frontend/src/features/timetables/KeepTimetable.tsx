import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, take } from "../../api/client";
import { pathOf } from "../../api/queries";
import { draftsQuery } from "../../api/timetableQueries";
import { Button } from "../../ui/Button";
import { Field, INPUT } from "../../ui/Field";
import { Made } from "../../ui/Made";
import { ProblemNotice } from "../../ui/Notice";
import { Sheet } from "../../ui/Sheet";
import { useSearch } from "../../ui/useSearch";
import { usePageSubject } from "../students/subject/usePageSubject";
import type { Asking } from "./useQuestion";
import type { Timetable } from "./words";

type Draft = Schemas["DraftResponse"];
type Props = { asking: Asking; timetable: Timetable | undefined; onClose: () => void };

/** The timetable on show to keep; and those that were kept, to open again or to show to somebody. */
export function KeepTimetable({ asking, timetable, onClose }: Props) {
  const subject = usePageSubject();
  const [params] = useSearch();
  const query = draftsQuery(subject);
  const found = useQuery(query);
  const drafts = found.data?.drafts ?? [];
  const numbers = timetable?.numbers.join(",") ?? "";
  const print = new URLSearchParams(params);
  print.set("at", numbers);
  return (
    <Sheet open onClose={onClose} title="Keep or show">
      {timetable ? (
        <>
          <KeepForm asking={asking} timetable={timetable} many={drafts.length} />
          <ul className="mt-4 space-y-1">
            <li>
              <Link className="link" to={`${subject.base}/timetables/print?${print}`}>
                Print it on one page
              </Link>
            </li>
            <li>
              <a
                className="link"
                href={`/api/terms/${subject.term}/timetable/calendar?numbers=${numbers}`}
                download
              >
                Calendar file
              </a>
              <span className="text-soft">, with every class date</span>
            </li>
          </ul>
          <p className="mt-2 text-[13px] text-soft">
            The address of the page holds what you asked, too: whoever in the college has it can ask
            the same.
          </p>
        </>
      ) : (
        <p className="text-soft">When there is a timetable on show, it can be kept here.</p>
      )}
      {found.error && <ProblemNotice problem={found.error} />}
      <h3 className="mt-6 text-[18px]">Kept</h3>
      {found.isSuccess && drafts.length === 0 && (
        <p className="text-[13px] text-soft">Nothing yet.</p>
      )}
      <ul className="border-t border-hair">
        {drafts.map((draft) => (
          <Kept key={draft.id} draft={draft} asking={asking} onClose={onClose} />
        ))}
      </ul>
    </Sheet>
  );
}

type FormProps = { asking: Asking; timetable: Timetable; many: number };

function KeepForm({ asking, timetable, many }: FormProps) {
  const subject = usePageSubject();
  const client = useQueryClient();
  const id = useId();
  const [name, setName] = useState(`Timetable ${many + 1}`);
  const keep = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/terms/{term}/drafts", {
          params: pathOf(subject),
          body: { name: name.trim(), question: asking.question, numbers: timetable.numbers },
        }),
      ),
    onSuccess: (now) => client.setQueryData(draftsQuery(subject).queryKey, now),
  });
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim()) keep.mutate();
      }}
    >
      <div className="flex items-end gap-3">
        <div className="flex-1">
          <Field id={id} label="Keep it under the name">
            <input
              id={id}
              className={INPUT}
              maxLength={60}
              autoComplete="off"
              value={name}
              onChange={({ target }) => setName(target.value)}
            />
          </Field>
        </div>
        <Button type="submit" disabled={keep.isPending || !name.trim()}>
          Keep
        </Button>
      </div>
      <p role="status" className="mt-1 text-[13px] text-pine empty:hidden">
        {keep.isSuccess ? "It is kept." : ""}
      </p>
      {keep.error && <ProblemNotice problem={keep.error} />}
    </form>
  );
}

type KeptProps = { draft: Draft; asking: Asking; onClose: () => void };

function Kept({ draft, asking, onClose }: KeptProps) {
  const subject = usePageSubject();
  const client = useQueryClient();
  const params = pathOf(subject);
  const own = { params: { ...params, path: { ...params.path, draft: draft.id } } };
  const key = draftsQuery(subject).queryKey;
  const letGo = useMutation({
    mutationFn: () => take(api.DELETE("/api/terms/{term}/drafts/{draft}", own)),
    onSuccess: (now) => client.setQueryData(key, now),
  });
  const link = useMutation({
    mutationFn: () =>
      take(api.POST("/api/terms/{term}/drafts/{draft}/link", { ...own, body: { days: 14 } })),
    onSuccess: ({ drafts }) => client.setQueryData(key, { drafts }),
  });
  const unlink = useMutation({
    mutationFn: () => take(api.DELETE("/api/terms/{term}/drafts/{draft}/link", own)),
    onSuccess: (now) => {
      client.setQueryData(key, now);
      link.reset();
    },
  });
  const problem = letGo.error ?? link.error ?? unlink.error;
  return (
    <li className="border-b border-hair py-2">
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <Button
          look="link"
          className="min-w-0 flex-1 truncate font-semibold"
          onClick={() => {
            asking.open(draft.question, draft.numbers);
            onClose();
          }}
        >
          {draft.name}
        </Button>
        {!subject.student &&
          (draft.link_ends_at ? (
            <Button look="quiet" onClick={() => unlink.mutate()}>
              Withdraw its link
            </Button>
          ) : (
            <Button look="quiet" disabled={link.isPending} onClick={() => link.mutate()}>
              Make a link
            </Button>
          ))}
        <Button look="quiet" disabled={letGo.isPending} onClick={() => letGo.mutate()}>
          Let it go<span className="sr-only">: {draft.name}</span>
        </Button>
      </div>
      {draft.changed.length > 0 ? (
        <ul className="mt-0.5 text-[13px]">
          {draft.changed.slice(0, 4).map((text) => (
            <li key={text} className="text-madder">
              {text}
            </li>
          ))}
        </ul>
      ) : (
        <p className="text-[13px] text-soft">Nothing has changed since.</p>
      )}
      {link.data && <Made path={link.data.path} />}
      {problem && <ProblemNotice problem={problem} />}
    </li>
  );
}
