import { type ReactNode, useEffect } from "react";
import { Link } from "react-router";
import { Button } from "./Button";
import { ProblemNotice } from "./Notice";
import { Reading } from "./Page";

type Props = {
  /** The page's name, in the browser's tab. */
  tab: string;
  /** Where one came from. */
  back: { to: string; name: string };
  problem: Error | null;
  /** Whose it is, and of which term; empty until it has been read. */
  heading: string;
  /** From which college, as of when. */
  from: string;
  /** What is read for it. */
  reading: string;
  children: ReactNode;
};

/** One page of paper: what stands above it on the screen is not printed. */
export function Paper({ tab, back, problem, heading, from, reading, children }: Props) {
  useEffect(() => {
    document.title = `${tab} · Gremba`;
  }, [tab]);
  return (
    <main id="main" className="mx-auto max-w-[900px] p-6 max-sm:p-3 print:max-w-none print:p-0">
      <div className="mb-4 flex gap-3 print:hidden">
        <Button onClick={() => window.print()}>Print</Button>
        <Link className="link self-center" to={back.to}>
          {back.name}
        </Link>
      </div>
      <div className="flex flex-wrap items-baseline justify-between gap-4">
        <h1 className="text-[24px]">{heading || tab}</h1>
        <p className="text-small text-soft">{heading && from}</p>
      </div>
      {problem && <ProblemNotice problem={problem} />}
      {heading ? children : !problem && reading && <Reading what={reading} />}
    </main>
  );
}
