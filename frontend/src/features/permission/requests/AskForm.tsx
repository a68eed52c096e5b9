import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { askingQuery } from "../../../api/requestQueries";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Reading } from "../../../ui/Page";
import { Tick } from "../../../ui/Ticks";
import { listed } from "../../../ui/text";
import { useSectionLink } from "../../catalogue/section/useSectionLink";
import { LimitForm } from "../../students/subject/LimitForm";
import { useAdvising } from "../../students/subject/useAdvising";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { FilesField } from "./FilesField";
import { useDraftWords } from "./useDraftWords";
import { useRequests } from "./useRequests";
import { WordsField } from "./WordsField";
import { lifted } from "./words";

type Props = { number: string; onDone: () => void };

/** Ask for one section: what would be lifted, who decides, what a yes would not help against, one's words. */
export function AskForm({ number, onDone }: Props) {
  const subject = usePageSubject();
  const found = useQuery(askingQuery(subject, number));
  const heading = useRef<HTMLHeadingElement>(null);
  const link = useSectionLink();
  const isThere = found.data !== undefined;
  useEffect(() => {
    if (isThere) heading.current?.focus();
  }, [isThere]);
  return (
    <section
      aria-labelledby="asking"
      className="mt-3 border-l-4 border-l-woad bg-surface px-4 pt-3 pb-4"
      data-testid="asking"
    >
      {found.isPending && <Reading what="what can be asked" />}
      {found.isError && !found.data && <ProblemNotice problem={found.error} />}
      {found.data && (
        <>
          <div className="flex flex-wrap items-baseline justify-between gap-x-4">
            <h2
              id="asking"
              ref={heading}
              tabIndex={-1}
              className="text-[20px] leading-snug outline-none"
            >
              Ask for {found.data.name} {found.data.title}
            </h2>
            <Button look="quiet" onClick={onDone}>
              Not now
            </Button>
          </div>
          <p className="text-[13px] text-soft">
            <Link className="link number" to={link(number)}>
              {number}
            </Link>
            , {found.data.times}
          </p>
          {found.data.open_request !== null ? (
            <p className="mt-2">You have asked for it already; see below who has it.</p>
          ) : found.data.why_not ? (
            <p className="mt-2">{found.data.why_not}</p>
          ) : subject.student ? (
            <OfAnother asking={found.data} />
          ) : (
            <Form asking={found.data} onDone={onDone} />
          )}
        </>
      )}
    </section>
  );
}

function Form({ asking, onDone }: { asking: Schemas["AskingResponse"]; onDone: () => void }) {
  const { ask } = useRequests();
  const announce = useAnnounce();
  const [words, keep, forget] = useDraftWords(`ask ${asking.number}`);
  const [files, setFiles] = useState<File[]>([]);
  const [goesThrough, setGoesThrough] = useState(true);
  const isTooLong = words.trim().length > asking.most_words;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    ask.mutate(
      { number: asking.number, words, goesThrough, files },
      {
        onSuccess: () => {
          announce(`Asked. ${asking.who[0]} has your request now.`);
          forget();
          onDone();
        },
      },
    );
  };
  return (
    <form onSubmit={submit} className="mt-2">
      <dl className="grid gap-x-4 gap-y-1 sm:grid-cols-[128px_1fr]">
        <dt className="text-soft">What stops you</dt>
        <dd>{asking.lifted.join(" ")}</dd>
        <dt className="text-soft">Who decides</dt>
        <dd>
          <b className="font-semibold">{asking.who[0]}</b>
          {asking.who.slice(1).map((who) => `, then ${who}`)}
        </dd>
        {asking.with_it.length > 0 && (
          <>
            <dt className="text-soft">Together with</dt>
            <dd>{listed(asking.with_it)}</dd>
          </>
        )}
        {asking.otherwise.length > 0 && (
          <>
            <dt className="text-ochre">But mind</dt>
            <dd>
              A yes alone is not enough. This would still stop it: {asking.otherwise.join(" ")}
            </dd>
          </>
        )}
        {asking.may_wait && (
          <>
            <dt className="text-ochre">But mind</dt>
            <dd>It is full and has a waitlist: a seat is not asked for, but waited for.</dd>
          </>
        )}
      </dl>
      <div className="mt-3">
        <WordsField
          label={`Your words to ${asking.who[0]}`}
          value={words}
          most={asking.most_words}
          onChange={keep}
        />
      </div>
      <FilesField files={files} most={3} onChange={setFiles} />
      <Tick className="mt-2 w-fit" checked={goesThrough} onChange={setGoesThrough}>
        Put it through for me when it is granted
      </Tick>
      {ask.isError && (
        <div className="mt-2">
          <ProblemNotice problem={ask.error} />
        </div>
      )}
      <Button
        type="submit"
        look="main"
        className="mt-3"
        disabled={ask.isPending || !words.trim() || isTooLong}
      >
        {ask.isPending ? "Asking…" : `Ask ${asking.who[0]}`}
      </Button>
    </form>
  );
}

/** Asking is the student's; more credits are for the advisor to allow, right there. */
function OfAnother({ asking }: { asking: Schemas["AskingResponse"] }) {
  const { term, student = 0 } = usePageSubject();
  const { limit } = useAdvising(term);
  return (
    <div className="mt-2">
      <p>
        {asking.lifted.join(" ")} The student can ask {listed(asking.who)} to lift{" "}
        {lifted(asking.waives)}.
      </p>
      {asking.waives.includes("credits") && (
        <div className="mt-2">
          <LimitForm
            own={null}
            isPending={limit.isPending}
            onSet={(credits) => limit.mutate({ student, credits })}
          />
        </div>
      )}
      {limit.isError && <ProblemNotice problem={limit.error} />}
    </div>
  );
}
