/** Plain words that the server has read as filters turn into chips: on Enter, or once one has stopped typing. */
import { useCallback, useEffect } from "react";
import type { Schemas } from "../../../api/client";
import { FILTERS } from "../../../api/filters";
import { useAnnounce } from "../../../ui/announce";
import { useSearch } from "../../../ui/useSearch";

/** Long enough that nobody is in the middle of a word. */
const STOPPED_TYPING = 1_200;

type Reading = Schemas["ReadingResponse"];

/** Put what was read into the address, beside what is chosen there, and leave the other words. */
export function applyReadings(params: URLSearchParams, readings: Reading[], rest: string): void {
  for (const { filter, value } of readings) {
    const takes = FILTERS.find(({ name }) => name === filter)?.takes;
    const chosen = params.getAll(filter);
    if (takes === "any" || takes === "free") {
      if (!chosen.includes(value)) params.append(filter, value);
    } else if (takes === "yes") params.set(filter, "true");
    else if (takes === "text") params.set(filter, [...chosen, value].join(" "));
    else if (chosen.length === 0) params.set(filter, value);
  }
  if (rest) params.set("words", rest);
  else params.delete("words");
}

/** @param settled what was found for the very words that stand in the address; else undefined. */
export function usePlainWords(settled: Schemas["SearchResponse"] | undefined) {
  const [shown, change] = useSearch();
  const words = shown.get("words");
  const announce = useAnnounce();
  const take = useCallback(() => {
    if (!settled || settled.understood.length === 0) return false;
    // Typed on meanwhile, on a machine whose page is behind its address: nothing of that is to be lost.
    if (new URLSearchParams(window.location.search).get("words") !== words) return false;
    const { understood, rest } = settled;
    change((params) => applyReadings(params, understood, rest), { replace: true });
    announce(`Taken as filters: ${understood.map(({ said }) => said).join(", ")}.`);
    return true;
  }, [settled, words, change, announce]);
  useEffect(() => {
    const timer = window.setTimeout(take, STOPPED_TYPING);
    return () => window.clearTimeout(timer);
  }, [take]);
  return take;
}
