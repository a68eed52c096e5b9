/** The four things a student does alone, each a small form. */

import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { Tick } from "../../../ui/Ticks";

type AgreementProps = { paragraphs: string[]; isPending: boolean; onAccept: () => void };

export function AgreementForm({ paragraphs, isPending, onAccept }: AgreementProps) {
  const [agreed, setAgreed] = useState(false);
  return (
    <>
      <ol className="mb-3 list-decimal space-y-1.5 pl-5">
        {paragraphs.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </ol>
      <Tick className="mb-3" checked={agreed} onChange={setAgreed}>
        I have read it and agree.
      </Tick>
      <Button look="main" disabled={!agreed || isPending} onClick={onAccept}>
        Accept the agreement
      </Button>
    </>
  );
}

type Details = Schemas["DetailsSchema"];
type DetailsProps = {
  email: string;
  details: Details;
  isPending: boolean;
  onConfirm: (details: Details) => void;
};

const DETAILS: [keyof Details, string, string][] = [
  ["phone", "Phone", "tel"],
  ["address", "Address", "street-address"],
  ["emergency_name", "In an emergency, call", "off"],
  ["emergency_phone", "Their phone", "off"],
];

export function DetailsForm({ email, details, isPending, onConfirm }: DetailsProps) {
  const id = useId();
  const [own, setOwn] = useState(details);
  const isComplete = DETAILS.every(([key]) => own[key].trim());
  return (
    <form
      onSubmit={(event: FormEvent) => {
        event.preventDefault();
        onConfirm(own);
      }}
    >
      <p className="mb-3 text-[13px]">
        Notices go to <span className="number">{email}</span>. For everything else:
      </p>
      <div className="mb-3 grid gap-3 sm:grid-cols-2">
        {DETAILS.map(([key, label, complete]) => (
          <Field key={key} id={`${id}-${key}`} label={label}>
            <input
              id={`${id}-${key}`}
              className={INPUT}
              autoComplete={complete}
              value={own[key]}
              onChange={(event) => setOwn({ ...own, [key]: event.target.value })}
            />
          </Field>
        ))}
      </div>
      <Button look="main" type="submit" disabled={!isComplete || isPending}>
        These are right
      </Button>
    </form>
  );
}

type SurveyProps = {
  questions: Schemas["QuestionResponse"][];
  isPending: boolean;
  onAnswer: (answers: Record<string, string>) => void;
};

export function SurveyForm({ questions, isPending, onAnswer }: SurveyProps) {
  const id = useId();
  const [answers, setAnswers] = useState<Record<string, string>>({});
  return (
    <form
      onSubmit={(event: FormEvent) => {
        event.preventDefault();
        onAnswer(answers);
      }}
    >
      {questions.map((question) => (
        <fieldset key={question.key} className="mb-3">
          <legend className="mb-1 font-semibold">{question.text}</legend>
          {question.options.map((option) => (
            <label key={option} className="flex items-center gap-2 py-0.5">
              <input
                type="radio"
                className="size-4 accent-pine"
                name={`${id}-${question.key}`}
                checked={answers[question.key] === option}
                onChange={() => setAnswers({ ...answers, [question.key]: option })}
              />
              {option}
            </label>
          ))}
        </fieldset>
      ))}
      <Button
        look="main"
        type="submit"
        disabled={isPending || questions.some(({ key }) => !answers[key])}
      >
        Send the answers
      </Button>
    </form>
  );
}

type OrientationProps = { pages: string[]; isPending: boolean; onFinish: () => void };

export function OrientationForm({ pages, isPending, onFinish }: OrientationProps) {
  const [page, setPage] = useState(0);
  const isLast = page === pages.length - 1;
  return (
    <>
      <p className="mb-1 text-[13px] text-soft">
        Page {page + 1} of {pages.length}
      </p>
      <p className="mb-3 text-[15px]" aria-live="polite">
        {pages[page]}
      </p>
      <div className="flex gap-3">
        {page > 0 && <Button onClick={() => setPage(page - 1)}>Back</Button>}
        {isLast ? (
          <Button look="main" disabled={isPending} onClick={onFinish}>
            Finish
          </Button>
        ) : (
          <Button look="main" onClick={() => setPage(page + 1)}>
            Next page
          </Button>
        )}
      </div>
    </>
  );
}
