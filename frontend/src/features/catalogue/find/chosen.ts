/** What is chosen of the filters, in a few words. */
import type { Schemas } from "../../../api/client";
import { clockTime } from "../../../ui/text";
import type { FilterRow, Filters } from "./filters";

export type Counts = Schemas["FilterCounts"][];

export type Shown = Exclude<FilterRow, { takes: "numbers" }>;

export function isShown(row: FilterRow): row is Shown {
  return row.takes !== "numbers";
}

export function valuesOf(counts: Counts, name: string) {
  return counts.find((c) => c.filter === name)?.values ?? [];
}

/** What is chosen of a filter, in a few words; "" for nothing. */
export function chosenText(row: Shown, filters: Filters, counts: Counts): string {
  const typed = filters.one(row.name);
  if (row.takes === "text") return typed;
  if (row.takes === "minute") return typed && row.reads.replace("{}", clockTime(Number(typed)));
  const short: Record<string, string> = row.short;
  const chosen =
    row.takes === "yes" ? (filters.yes(row.name) ? ["yes"] : []) : filters.many(row.name);
  const nameOf = (value: string) => {
    const name = valuesOf(counts, row.name).find((v) => v.value === value)?.name ?? value;
    return short[value] ?? (row.showsValue ? value : (name.split(",")[0] ?? name));
  };
  return chosen.map(nameOf).join(row.takes === "free" ? " " : ", ");
}
