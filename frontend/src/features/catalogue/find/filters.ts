/** Filters as they live in the address of the page, and as the server is asked for them. */
import { useCallback, useMemo } from "react";
import { FILTERS } from "../../../api/filters";
import type { Search } from "../../../api/queries";
import { useSearch } from "../../../ui/useSearch";
import { PICK } from "../section/pick";

export type FilterRow = (typeof FILTERS)[number];
/** Chosen sections are a list of the page's own: those starred, or viewed lately. */
export type FilterName = Exclude<FilterRow["name"], "among"> | "list" | "sort";

/** Parts of the address that are no filters. */
const OTHERS = new Set(["section", "sign-in", PICK]);
const KNOWN = new Set<string>([...FILTERS.map(({ name }) => name), "list", "sort"]);
KNOWN.delete("among");

export type Filters = {
  params: URLSearchParams;
  many: (name: FilterName) => string[];
  one: (name: FilterName) => string;
  yes: (name: FilterName) => boolean;
  /** How many are set, the order of results left aside. */
  active: number;
  /** In the address, but no filter that there is. */
  strange: string[];
  set: (name: FilterName, value: string | string[] | boolean) => void;
  clear: () => void;
};

export function useFilters(): Filters {
  const [params, change] = useSearch();
  const set = useCallback<Filters["set"]>(
    (name, value) =>
      change(
        (next) => {
          next.delete(name);
          const values = typeof value === "boolean" ? (value ? ["true"] : []) : [value].flat();
          for (const each of values) if (each) next.append(name, each);
        },
        { replace: true },
      ),
    [change],
  );
  const clear = useCallback(
    () =>
      change((next) => {
        for (const name of [...next.keys()])
          if (!OTHERS.has(name) && name !== "sort") next.delete(name);
      }),
    [change],
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
  if (one("sort")) search.sort = one("sort");
  for (const row of FILTERS) {
    if (row.takes === "numbers") continue;
    if (row.takes === "yes") {
      if (yes(row.name)) search[row.name] = true;
    } else if (row.takes === "minute") {
      const minute = Number(one(row.name));
      if (one(row.name) && Number.isInteger(minute) && minute >= 0 && minute <= 1440)
        search[row.name] = minute;
    } else if (row.takes === "text" || row.takes === "one") {
      if (one(row.name)) search[row.name] = one(row.name);
    } else if (many(row.name).length) search[row.name] = many(row.name);
  }
  if (among) search.among = among.join(",");
  return search;
}
