import { useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { counted } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { type Answer, AnswerForm } from "./AnswerForm";
import { Files, Happened } from "./Happened";
import { useAnswering } from "./useAnswering";
import { lifted, stateOf, TONES } from "./words";

type Request = Schemas["RequestToAnswer"];
type Props = { request: Request; session: SignedIn; latest: string };

const BUTTONS: [Answer, string][] = [
  ["yes", "Yes"],
  ["no", "No"],
  ["not yet", "Ask back"],
];

const OPEN = new Set(["open", "asked back"]);

const DONE: Record<Answer | "back", string> = {
  yes: "You said yes to",
  no: "You said no to",
  "not yet": "Your question is with",
  back: "You took the yes back from",
};

/** One request: who asks for what, in which words; what is known of them; what a yes would do. */
export function RequestCard({ request, session, latest }: Props) {
  const { answer, takeBack } = useAnswering();
  const announce = useAnnounce();
  const heading = useRef<HTMLHeadingElement>(null);
  const [saying, setSaying] = useState<Answer | "back" | null>(null);
  const { word, tone } = stateOf(request, session.zone);
  const problem = answer.error ?? takeBack.error;
  const isBusy = answer.isPending || takeBack.isPending;
  const done = () => {
    if (saying) announce(`${DONE[saying]} ${request.student}.`);
    setSaying(null);
    heading.current?.focus();
  };
  return (
    <li
      className={`border-l-4 bg-surface px-4 py-3 ${request.is_mine ? "border-l-woad" : "border-l-hair"}`}
      data-testid={`answer-${request.id}`}
    >
      <h3 ref={heading} tabIndex={-1} className="text-[17px] leading-snug outline-none">
        {request.student}
      </h3>
      <p className="text-[13px] text-soft">
        {request.class_standing}, {request.program}
        {request.standing === "probation" && ", on probation"} · asks for {lifted(request.waives)}
        {request.stands_for && ` · for ${request.stands_for}`}
      </p>
      <p className="mt-1 text-[13px]">
        <b className={`font-semibold ${TONES[tone]}`}>{word}</b>
      </p>
      <blockquote className="my-2 border-l border-hair pl-3 break-words whitespace-pre-wrap">
        {request.words}
      </blockquote>
      <Files request={request} />
      <p className={`mt-2 text-[13px] ${OPEN.has(request.state) ? "" : "hidden"}`}>
        {request.goes ? (
          <>
            <b className="font-semibold text-pine">A yes is all that is missing:</b>{" "}
            {request.credits_before} → {counted(request.credits_after, "credit", "credits")} of{" "}
            {request.credit_limit}.
          </>
        ) : (
          <>
            <b className="font-semibold text-ochre">A yes alone is not enough.</b>{" "}
            {request.still_stops.join(" ")}
          </>
        )}
      </p>
      <details className="mt-1 text-[13px]">
        <summary className="w-fit py-[3px] text-soft hover:text-ink">
          Record and week: {counted(request.credits_earned, "credit", "credits")} earned
        </summary>
        <ul className="mt-1 columns-2 gap-4 text-small">
          {request.record.map(({ course, term, grade }) => (
            <li key={course + term}>
              <span className="number">{course}</span> {grade || "in progress"}
              <span className="text-soft"> {term}</span>
            </li>
          ))}
        </ul>
        <p className="mt-1.5">
          <span className="text-soft">Registered now:</span> {request.week.join("; ") || "nothing"}
        </p>
      </details>
      {request.events.length > 1 && (
        <details className="mt-0.5 text-[13px]">
          <summary className="w-fit py-[3px] text-soft hover:text-ink">What has happened</summary>
          <Happened request={request} zone={session.zone} />
        </details>
      )}
      {saying === null && request.is_mine && (
        <div className="mt-2.5 flex gap-2">
          {BUTTONS.map(([said, name]) => (
            <Button
              key={said}
              look={said === "yes" ? "main" : "plain"}
              className={said === "yes" ? "px-4 py-1" : ""}
              onClick={() => setSaying(said)}
            >
              {name}
              <span className="sr-only"> to {request.student}</span>
            </Button>
          ))}
        </div>
      )}
      {saying === null && request.is_good && (
        <Button className="mt-2" onClick={() => setSaying("back")}>
          Take the yes back<span className="sr-only"> from {request.student}</span>
        </Button>
      )}
      {saying !== null && (
        <AnswerForm
          request={request}
          saying={saying}
          session={session}
          latest={latest}
          isPending={isBusy}
          onCancel={() => {
            setSaying(null);
            heading.current?.focus();
          }}
          onSay={(words, until) =>
            saying === "back"
              ? takeBack.mutate({ id: request.id, words }, { onSuccess: done })
              : answer.mutate(
                  {
                    id: request.id,
                    said: { answer: saying, words, until, version: request.version },
                  },
                  { onSuccess: done },
                )
          }
        />
      )}
      {problem && (
        <div className="mt-2">
          <ProblemNotice problem={problem} />
        </div>
      )}
    </li>
  );
}
