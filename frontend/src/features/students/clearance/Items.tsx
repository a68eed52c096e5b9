import { type ReactNode, useState } from "react";
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { dayAndTime } from "../../../ui/text";
import type { SignedIn } from "../../access/session/useSignedIn";
import { useAdvising } from "../subject/useAdvising";
import { usePageSubject } from "../subject/usePageSubject";
import { AgreementForm, DetailsForm, OrientationForm, SurveyForm } from "./forms";
import { useClearing } from "./useClearance";

type Item = Schemas["ItemResponse"];
type Props = { clearance: Schemas["ClearanceResponse"]; session: SignedIn; isOwn: boolean };

const ACTIONS: Record<Item["kind"], string> = {
  agreement: "Read and accept",
  details: "Confirm or correct",
  survey: "Answer",
  orientation: "Go through it",
  release: "",
};

/** What everybody has to have done; what the student can do alone is done right here. */
export function Items({ clearance, session, isOwn }: Props) {
  const announce = useAnnounce();
  const { clear } = useClearing();
  const [open, setOpen] = useState<Item["kind"] | null>(null);
  const done = ({ kind, name }: Item) => ({
    onSuccess: () => {
      // Another may have been opened meanwhile, and have something typed into it.
      setOpen((now) => (now === kind ? null : now));
      announce(`${name} is done.`);
    },
  });
  const forms: Partial<Record<Item["kind"], (item: Item) => ReactNode>> = {
    agreement: (item) => (
      <AgreementForm
        paragraphs={clearance.agreement}
        isPending={clear.isPending}
        onAccept={() => clear.mutate({ kind: "agreement" }, done(item))}
      />
    ),
    details: (item) =>
      clearance.details && (
        <DetailsForm
          email={clearance.email}
          details={clearance.details}
          isPending={clear.isPending}
          onConfirm={(details) => clear.mutate({ kind: "details", details }, done(item))}
        />
      ),
    survey: (item) => (
      <SurveyForm
        questions={clearance.survey}
        isPending={clear.isPending}
        onAnswer={(answers) => clear.mutate({ kind: "survey", answers }, done(item))}
      />
    ),
    orientation: (item) => (
      <OrientationForm
        pages={clearance.orientation}
        isPending={clear.isPending}
        onFinish={() => clear.mutate({ kind: "orientation" }, done(item))}
      />
    ),
  };
  return (
    <section aria-labelledby="items" className="mb-6">
      <h2 id="items" className="border-b border-ink pb-1 text-[20px]">
        To be done before registering
      </h2>
      <ul>
        {clearance.items.map((item) => {
          const isOpen = open === item.kind && !item.done;
          const form = forms[item.kind];
          return (
            <li
              key={item.kind}
              className={`border-b border-l-4 border-hair py-2.5 pl-3.5 ${item.done ? "border-l-pine" : "border-l-madder"}`}
              data-testid={`item-${item.kind}`}
            >
              <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
                <div className="min-w-0 flex-1">
                  <h3 className="font-sans text-[14px] font-semibold">
                    {item.name}:{" "}
                    <span className={item.done ? "text-pine" : "text-madder"}>
                      {item.done ? "done" : "open"}
                    </span>
                  </h3>
                  <p className="text-[13px] text-soft">
                    {item.done && item.done_at
                      ? `${dayAndTime(new Date(item.done_at), session.zone)}, by ${item.done_by}.`
                      : `${item.about} ${whose(item.owner, isOwn)}`}
                  </p>
                </div>
                {item.kind === "release" && session.person.role === "advisor" && (
                  <Release isReleased={item.done} />
                )}
                {!item.done && item.alone && isOwn && form && (
                  <Button aria-expanded={isOpen} onClick={() => setOpen(isOpen ? null : item.kind)}>
                    {isOpen ? "Later" : ACTIONS[item.kind]}
                    <span className="sr-only">: {item.name}</span>
                  </Button>
                )}
              </div>
              {isOpen && form && (
                <div className="mt-3 max-w-[640px] bg-shade p-3.5">
                  {clear.isError && (
                    <div className="mb-3">
                      <ProblemNotice problem={clear.error} />
                    </div>
                  )}
                  {form(item)}
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function whose(owner: string, isOwn: boolean): string {
  if (owner === "you") return "You can do it here.";
  return isOwn ? `It is for ${owner} to do: go and see them.` : "It is for the student to do.";
}

/** What the advisor does for the student, right there. */
function Release({ isReleased }: { isReleased: boolean }) {
  const { term, student = 0 } = usePageSubject();
  const { release } = useAdvising(term);
  return (
    <>
      <Button
        look={isReleased ? "quiet" : "plain"}
        disabled={release.isPending}
        onClick={() => release.mutate({ student, released: !isReleased })}
      >
        {isReleased ? "Take back" : "Release"}
        <span className="sr-only"> the student</span>
      </Button>
      {release.isError && <ProblemNotice problem={release.error} />}
    </>
  );
}
