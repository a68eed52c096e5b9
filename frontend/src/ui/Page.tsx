import { type ReactNode, useEffect } from "react";

type Props = { title: string; aside?: ReactNode; children: ReactNode };

/** A screen: its heading, what stands beside it, and the rest. */
export function Page({ title, aside, children }: Props) {
  useEffect(() => {
    document.title = `${title} · Gremba`;
  }, [title]);
  return (
    <>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1">
        <h1 className="text-[26px] leading-tight">{title}</h1>
        <div className="text-soft">{aside}</div>
      </div>
      {children}
    </>
  );
}

/** While something is read for the first time. */
export function Reading({ what }: { what: string }) {
  return <p className="py-6 text-soft">Reading {what}…</p>;
}
