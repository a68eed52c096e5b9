import { useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { memo, type RefObject, useLayoutEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { PAGE, type Search, searchQuery } from "../../api/queries";
import { credits } from "../../ui/text";
import { SectionLine } from "../section/SectionLine";

type Line = Schemas["CourseRow"] | Schemas["SectionRow"];
type Props = {
  term: string;
  search: Search;
  first: Schemas["SearchView"];
  stars: Set<string>;
  scroller: RefObject<HTMLElement | null>;
};

/** All results, of which only the lines in sight are drawn, and read when they come into it. */
export function Results({ term, search, first, stars, scroller }: Props) {
  const list = useRef<HTMLDivElement>(null);
  const [above, setAbove] = useState(0);
  useLayoutEffect(() => {
    const top = scroller.current?.getBoundingClientRect().top ?? 0;
    const own = list.current?.getBoundingClientRect().top ?? 0;
    setAbove(own - top + (scroller.current?.scrollTop ?? 0));
  }, [scroller]);
  const [pages, setPages] = useState<number[]>([]);
  const rest = useQueries({ queries: pages.map((page) => searchQuery(term, search, page)) });
  const lineAt = (index: number): Line | undefined => {
    if (index < first.rows.length) return first.rows[index];
    const found = rest[pages.indexOf(Math.floor(index / PAGE))];
    return found?.data?.rows[index % PAGE];
  };
  const virtual = useVirtualizer({
    count: first.lines,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => (lineAt(index)?.kind === "course" ? 46 : 47),
    scrollMargin: above,
    overscan: 8,
    getItemKey: (index) => {
      const line = lineAt(index);
      return line ? (line.kind === "course" ? line.key : line.number) : index;
    },
  });
  const shown = virtual.getVirtualItems();
  const needed = [...new Set(shown.map(({ index }) => Math.floor(index / PAGE)))].filter(
    (page) => page > 0,
  );
  if (needed.join() !== pages.join()) setPages(needed);
  return (
    <div ref={list} className="relative" style={{ height: virtual.getTotalSize() }}>
      {shown.map(({ index, key, start }) => {
        const line = lineAt(index);
        return (
          <div
            key={key}
            data-index={index}
            ref={virtual.measureElement}
            className="absolute inset-x-0"
            style={{ transform: `translateY(${start - above}px)` }}
          >
            {line ? (
              line.kind === "course" ? (
                <CourseLine row={line} />
              ) : (
                <div className="border-b border-hair">
                  <SectionLine row={line} term={term} starred={stars.has(line.number)} />
                </div>
              )
            ) : (
              <div className="h-[46px] border-b border-hair" aria-hidden />
            )}
          </div>
        );
      })}
    </div>
  );
}

const CourseLine = memo(function CourseLine({ row }: { row: Schemas["CourseRow"] }) {
  const { credits_least, credits_most } = row;
  const worth =
    credits_least === credits_most
      ? credits(credits_least)
      : `${credits_least} to ${credits_most} credits`;
  return (
    <div className="border-b border-hair pt-4">
      <div className="flex min-w-0 items-baseline gap-x-2.5 border-t border-ink pt-1 pb-1">
        <h2 className="shrink-0 text-[18px] leading-snug max-sm:shrink">
          {row.key} <span className="ml-1">{row.title}</span>
        </h2>
        <span className="shrink-0 text-[13px] text-soft">{worth}</span>
        {row.needs && (
          <span className="min-w-0 truncate text-small text-soft" title={`Needs ${row.needs}`}>
            needs {row.needs}
          </span>
        )}
        {row.counts.length > 0 && (
          <span className="ml-auto shrink-0 truncate text-small text-soft max-sm:hidden">
            {row.counts.join(", ")}
          </span>
        )}
      </div>
    </div>
  );
});
