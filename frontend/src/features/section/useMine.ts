/** One's own week and cart, as far as there are any: what sections are judged against. */
import { useQuery } from "@tanstack/react-query";
import { createContext, useContext, useMemo } from "react";
import type { Schemas } from "../../api/client";
import { cartQuery, placesQuery, weekQuery } from "../../api/queries";
import { weekday } from "../../ui/text";
import type { Place } from "../frame/usePlace";

/** A time of one's own week. */
export type Busy = { number: string; day: number; start: number; end: number };

export type Mine = {
  /** Somebody is signed in who has a cart here. */
  has: boolean;
  cart: Schemas["CartView"] | undefined;
  registered: Schemas["SectionView"][];
  busy: Busy[];
  /** Sections waited for, by reference number, and whether a seat is offered. */
  places: Map<string, "waiting" | "offered">;
  /** The reference numbers of that week, with commas between them. */
  against: string;
};

const NOBODY: Mine = {
  has: false,
  cart: undefined,
  registered: [],
  busy: [],
  places: new Map(),
  against: "",
};

export const MineContext = createContext<Mine>(NOBODY);

export const useMine = (): Mine => useContext(MineContext);

export function useReadMine(place: Place, has: boolean): Mine {
  const cart = useQuery({ ...cartQuery(place), enabled: has });
  const week = useQuery({ ...weekQuery(place), enabled: has });
  const waiting = useQuery({ ...placesQuery(place), enabled: has }).data?.places;
  const numbers = cart.data?.week;
  const sections = week.data;
  return useMemo(() => {
    if (!has) return NOBODY;
    const counts = new Set(numbers ?? []);
    const registered = sections?.registered ?? [];
    const all = [...registered, ...(sections?.in_cart ?? [])];
    return {
      has,
      cart: cart.data,
      registered,
      busy: all.filter(({ number }) => counts.has(number)).flatMap(busyOf),
      places: new Map(
        (waiting ?? []).flatMap(({ section, state }) =>
          state === "waiting" || state === "offered" ? [[section.number, state] as const] : [],
        ),
      ),
      against: [...counts].sort().join(","),
    };
  }, [has, cart.data, numbers, sections, waiting]);
}

function busyOf({ number, meetings }: Schemas["SectionView"]): Busy[] {
  return meetings.flatMap(({ dates, start, end }) =>
    [...new Set(dates.map(weekday))].map((day) => ({ number, day, start, end })),
  );
}
