import { useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useLayoutEffect, useRef, useState } from "react";
import { PAGE, searchQuery } from "../../../api/queries";
import { type Line, ResultLine } from "./ResultLine";
import type { ResultsProps } from "./resultsProps";

/** All results, of which only the lines in sight are drawn, and read when they come into it. */
export function AllResults({ term, search, first, stars, agreed, scroller }: ResultsProps) {
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
              <ResultLine
                line={line}
                term={term}
                starred={line.kind === "section" && stars.has(line.number)}
                agreed={line.kind === "course" && agreed.has(line.key)}
              />
            ) : (
              <div className="h-[46px] border-b border-hair" aria-hidden />
            )}
          </div>
        );
      })}
    </div>
  );
}
