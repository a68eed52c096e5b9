import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { requestsQuery } from "../../../api/requestQueries";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { counted } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { useSectionLink } from "../../catalogue/section/useSectionLink";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { AskForm } from "./AskForm";
import { FilesField } from "./FilesField";
import { Files, Happened } from "./Happened";
import { useDraftWords } from "./useDraftWords";
import { useRequests } from "./useRequests";
import { WordsField } from "./WordsField";
import { lifted, type Request, stateOf, TONES } from "./words";

const MOST_WORDS = 2000;
const OPEN = new Set(["open", "asked back"]);

/** What a student has asked somebody to allow, who has it, and what became of it; and asking. */
export function RequestsPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const [query, setQuery] = useSearchParams();
  const found = useQuery(requestsQuery(subject));
  const asked = query.get("ask");
  const number = asked && /^\d{5}$/.test(asked) ? asked : "";
  const requests = found.data?.requests ?? [];
  const isLive = (request: Request) => OPEN.has(request.state) || request.is_good;
  const live = requests.filter(isLive);
  const ended = requests.filter((request) => !isLive(request));
  const close = () =>
    setQuery((now) => {
      now.delete("ask");
      return now;
    });
  return (
    <Page title="Requests" aside={live.length > 0 && `${live.length} open or granted`}>
      {number && <AskForm key={number} number={number} onDone={close} />}
      {found.isPending && <Reading what="your requests" />}
      {found.isError && !found.data && (
        <div className="mt-4">
          <ProblemNotice problem={found.error} />
        </div>
      )}
      {found.data && live.length === 0 && !number && (
        <p className="mt-4 border-t border-ink py-4 text-soft">
          You have asked nobody for anything. Where only a person can say yes, such as to a seat
          beyond the limit or a course from elsewhere that should count, the cart and the section’s
          page offer to ask.
        </p>
      )}
      <ul className="mt-4 space-y-4">
        {live.map((request) => (
          <LiveRequest key={request.id} request={request} session={session} />
        ))}
      </ul>
      {ended.length > 0 && (
        <details className="mt-8">
          <summary className="w-fit py-1 text-soft hover:text-ink">
            {counted(ended.length, "request that has ended", "requests that have ended")}
          </summary>
          <ul className="mt-2 border-t border-ink">
            {ended.map((request) => (
              <li key={request.id} className="border-b border-hair py-2.5">
                <Heading request={request} session={session} />
                <Files request={request} />
                <Happened request={request} zone={session.zone} />
              </li>
            ))}
          </ul>
        </details>
      )}
    </Page>
  );
}

function Heading({ request, session }: { request: Request; session: SignedIn }) {
  const { base } = usePageSubject();
  const link = useSectionLink();
  const { word, tone } = stateOf(request, session.zone);
  return (
    <div className="min-w-[220px] flex-1">
      <h2 className="text-[19px] leading-snug">
        {request.name} {request.title}
      </h2>
      <p className="text-[13px] text-soft">
        <Link className="link number" to={link(request.number)}>
          {request.number}
        </Link>
        , {lifted(request.waives)}
      </p>
      <p className="mt-1">
        <b className={`font-semibold ${TONES[tone]}`}>{word}</b>
        {request.confirmation !== null && (
          <>
            {", "}
            <Link className="link" to={`${base}/confirmations/${request.confirmation}`}>
              confirmation {request.confirmation}
            </Link>
          </>
        )}
        .
      </p>
    </div>
  );
}

const EDGES: Record<string, string> = {
  open: "border-l-woad",
  "asked back": "border-l-ochre",
  granted: "border-l-pine",
};

function LiveRequest({ request, session }: { request: Request; session: SignedIn }) {
  const { student } = usePageSubject();
  const { withdraw } = useRequests();
  const announce = useAnnounce();
  const isOpen = OPEN.has(request.state);
  return (
    <li
      className={`border-l-4 bg-surface px-4 py-3.5 ${EDGES[request.state]}`}
      data-testid={`request-${request.number}`}
    >
      <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
        <Heading request={request} session={session} />
        {isOpen && !student && (
          <Button
            disabled={withdraw.isPending}
            onClick={() =>
              withdraw.mutate(request.id, {
                onSuccess: () => announce(`You took the request for ${request.name} back.`),
              })
            }
          >
            Take back<span className="sr-only"> the request for {request.name}</span>
          </Button>
        )}
      </div>
      {request.is_good && (
        <p className="mt-1">
          It stands in the cart at the top: put it through there with one press.
          {request.goes_through &&
            " It also goes through by itself as soon as nothing else stops it."}
        </p>
      )}
      {isOpen && request.otherwise.length > 0 && (
        <p className="mt-1 text-[13px]">
          <span className="text-ochre">Mind:</span> a yes alone is not enough.{" "}
          {request.otherwise.join(" ")}
        </p>
      )}
      <Files request={request} />
      <Happened request={request} zone={session.zone} />
      {request.state === "asked back" && !student && <AnswerBack request={request} />}
      {withdraw.isError && (
        <div className="mt-2">
          <ProblemNotice problem={withdraw.error} />
        </div>
      )}
    </li>
  );
}

/** The student's answer to a question. */
function AnswerBack({ request }: { request: Request }) {
  const { answerBack } = useRequests();
  const announce = useAnnounce();
  const [words, keep, forget] = useDraftWords(`answer ${request.id}`);
  const [files, setFiles] = useState<File[]>([]);
  const room = 3 - request.files.length;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    answerBack.mutate(
      { id: request.id, words, files },
      {
        onSuccess: () => {
          forget();
          announce("Answered. It goes on now.");
        },
      },
    );
  };
  return (
    <form className="mt-3 bg-shade p-3" onSubmit={submit}>
      <WordsField label="Your answer" value={words} most={MOST_WORDS} onChange={keep} />
      {room > 0 && <FilesField files={files} most={room} onChange={setFiles} />}
      {answerBack.isError && <ProblemNotice problem={answerBack.error} />}
      <Button
        type="submit"
        look="main"
        className="mt-2"
        disabled={answerBack.isPending || !words.trim() || words.trim().length > MOST_WORDS}
      >
        Answer
      </Button>
    </form>
  );
}
