import { createContext, type ReactNode, useContext, useEffect } from "react";

/** Whose pages they are, where they are somebody else's: it stands in the title of each. */
export const WhosePages = createContext("");

type Props = {
  title: string;
  /** In the browser's tab, where that is another. */
  tab?: string;
  /** What stands right beside the heading, as part of what it says. */
  beside?: ReactNode;
  aside?: ReactNode;
  children: ReactNode;
};

/** A screen: its heading, what stands beside it, and the rest. */
export function Page({ title, tab = title, beside, aside, children }: Props) {
  const whose = useContext(WhosePages);
  useEffect(() => {
    document.title = [tab, whose, "Gremba"].filter(Boolean).join(" · ");
  }, [tab, whose]);
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
