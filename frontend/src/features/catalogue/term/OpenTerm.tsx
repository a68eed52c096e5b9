import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { ProblemNotice } from "../../../ui/Notice";
import { Sheet } from "../../../ui/Sheet";
import { useTermChanges } from "./useTermChanges";

type Props = { term: Schemas["PreparedTerm"] };

const SAYS = {
  "in preparation": "In preparation: only you see it.",
  open: "Open: students see it, and can register as their windows say.",
  closed: "Closed: students see it, and nothing can be changed in it.",
};

/** How far the term is, and taking it further. */
export function OpenTerm({ term }: Props) {
  const announce = useAnnounce();
  const { setState } = useTermChanges(term.code);
  const [asks, setAsks] = useState(false);
  const faulty = term.checks.filter(({ is_well }) => !is_well);
  const close = () => {
    setAsks(false);
    setState.reset();
  };
  const isOpen = term.state === "open";
  const send = () =>
    setState.mutate(
      isOpen
        ? { state: "closed", despite: [] }
        : { state: "open", despite: faulty.map(({ key }) => key) },
      {
        onSuccess: ({ name }) => {
          setAsks(false);
          announce(`${name} is ${isOpen ? "closed" : "open"}.`);
        },
      },
    );
  return (
    <section
      aria-label="How far it is"
      className="mt-4 flex flex-wrap items-center gap-x-6 gap-y-2 border border-hair bg-surface px-4 py-3"
    >
      <p className="min-w-[220px] flex-1 text-[15px]">{SAYS[term.state]}</p>
      <Button look={isOpen ? "plain" : "main"} onClick={() => setAsks(true)}>
        {isOpen ? "Close it" : term.state === "closed" ? "Open it again" : "Open it"}
      </Button>
      <Sheet open={asks} onClose={close} title={`${isOpen ? "Close" : "Open"} ${term.name}?`}>
        {isOpen ? (
          <p>
            Nobody can add, drop, swap or wait any more, whatever the days say. You can open it
            again.
          </p>
        ) : (
          <Before faulty={faulty} isFirst={term.state === "in preparation"} />
        )}
        {setState.error && (
          <div className="mt-3">
            <ProblemNotice problem={setState.error} />
          </div>
        )}
        <div className="mt-5 flex gap-3">
          <Button look="main" disabled={setState.isPending} onClick={send}>
            {isOpen ? "Close it" : faulty.length > 0 ? "Open it all the same" : "Open it"}
          </Button>
          <Button look="quiet" onClick={close}>
            Not yet
          </Button>
        </div>
      </Sheet>
    </section>
  );
}

/** What opening does, and what is not in order. */
function Before({ faulty, isFirst }: { faulty: Schemas["CheckResponse"][]; isFirst: boolean }) {
  return (
    <>
      <p>
        Students see it from now on, and register as their windows say.
        {isFirst && " Everybody is told theirs."}
      </p>
      {faulty.length > 0 && (
        <>
          <p className="mt-3">Not so yet:</p>
          <ul className="mt-1 list-disc pl-5">
            {faulty.map(({ key, title, holds_up }) => (
              <li key={key}>
                {title}
                {holds_up && <span className="text-madder"> (students would be stopped)</span>}
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
