/** Filters as they live in the address of the page, and as the server is asked for them. */
import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";
import type { Search } from "../../api/queries";

export const MANY = [
  "subject",
  "instructor",
  "day",
  "part",
  "campus",
  "delivery",
  "component",
  "block",
  "credits",
  "level",
  "counts",
] as const;
export const ONE = ["words", "number", "seats", "sort", "list"] as const;
export const MINUTES = ["time_from", "time_to"] as const;
export const YES = ["no_textbook_cost", "fits"] as const;

export type Many = (typeof MANY)[number];
export type One = (typeof ONE)[number];
export type Minutes = (typeof MINUTES)[number];
export type Yes = (typeof YES)[number];
export type FilterName = Many | One | Minutes | Yes;

/** Parts of the address that are no filters. */
const OTHERS = new Set(["section", "sign-in"]);
const KNOWN = new Set<string>([...MANY, ...ONE, ...MINUTES, ...YES]);

export type Filters = {
  params: URLSearchParams;
  many: (name: Many) => string[];
  one: (name: One | Minutes) => string;
  yes: (name: Yes) => boolean;
  /** How many are set, the order of results left aside. */
  active: number;
  /** In the address, but no filter that there is. */
  strange: string[];
  set: (name: FilterName, value: string | string[] | boolean) => void;
  clear: () => void;
};

export function useFilters(): Filters {
  const [params, setParams] = useSearchParams();
  const set = useCallback<Filters["set"]>(
    (name, value) =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          next.delete(name);
          const values = typeof value === "boolean" ? (value ? ["true"] : []) : [value].flat();
          for (const each of values) if (each) next.append(name, each);
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
  const clear = useCallback(
    () =>
      setParams((before) => {
        const kept = [...before].filter(([name]) => OTHERS.has(name) || name === "sort");
        return new URLSearchParams(kept);
      }),
    [setParams],
  );
  return useMemo(() => {
    const names = [...new Set(params.keys())];
    return {
      params,
      many: (name) => params.getAll(name),
      one: (name) => params.get(name) ?? "",
      yes: (name) => params.get(name) === "true",
      active: names.filter((name) => KNOWN.has(name) && name !== "sort").length,
      strange: names.filter((name) => !KNOWN.has(name) && !OTHERS.has(name)),
      set,
      clear,
    };
  }, [params, set, clear]);
}

/** What the server is asked for. */
export function searchOf(filters: Filters, against: string, among: string[] | null): Search {
  const { many, one, yes } = filters;
  const search: Search = { against };
  for (const name of MANY) if (many(name).length) search[name] = many(name);
  for (const name of ["words", "number", "seats", "sort"] as const)
    if (one(name)) search[name] = one(name);
  for (const name of MINUTES) {
    const minute = Number(one(name));
    if (one(name) && Number.isInteger(minute) && minute >= 0 && minute <= 1440)
      search[name] = minute;
  }
  for (const name of YES) if (yes(name)) search[name] = true;
  if (among) search.among = among.join(",");
  return search;
}
