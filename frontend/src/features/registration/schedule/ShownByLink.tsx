import type { UseQueryResult } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { ProblemNotice } from "../../../ui/Notice";
import { Reading } from "../../../ui/Page";

type Props<T> = {
  college: string;
  /** What it is, as the page's title and while it is read: "week". */
  what: string;
  found: UseQueryResult<T>;
  children: (shown: T) => ReactNode;
};

/** What a student has shown to somebody by a link: to read, nothing more. */
export function ShownByLink<T>({ college, what, found, children }: Props<T>) {
  useEffect(() => {
    document.title = `A ${what} · Gremba`;
  }, [what]);
  return (
    <main className="mx-auto max-w-[900px] p-5">
      <p className="mb-5 flex items-baseline gap-3 text-soft">
        <span className="font-serif text-[21px] font-semibold text-ink">Gremba</span> {college}
      </p>
      {found.isPending && <Reading what={`the ${what}`} />}
      {found.isError && (
        <>
          <h1 className="mb-3 text-[24px]">Nothing to show</h1>
          <ProblemNotice problem={found.error} />
        </>
      )}
      {found.data && children(found.data)}
    </main>
  );
}
