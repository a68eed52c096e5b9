import { type ReactNode, useEffect } from "react";

type Props = {
  title: string;
  /** What stands right beside the heading, as part of what it says. */
  beside?: ReactNode;
  aside?: ReactNode;
  children: ReactNode;
};

/** A screen: its heading, what stands beside it, and the rest. */
export function Page({ title, beside, aside, children }: Props) {
  useEffect(() => {
    document.title = `${title} · Gremba`;
  }, [title]);
  return (
    <>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4 gap-y-1">
        <div className="flex flex-wrap items-baseline gap-x-3.5">
          <h1 className="text-[26px] leading-tight">{title}</h1>
          {beside}
        </div>
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
