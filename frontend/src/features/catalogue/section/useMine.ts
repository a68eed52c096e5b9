/** One's own week and cart, as far as there are any: what sections are judged against. */
import { useQuery } from "@tanstack/react-query";
import { createContext, useContext, useMemo } from "react";
import type { Schemas } from "../../../api/client";
import { cartQuery, weekQuery } from "../../../api/queries";
import { weekday } from "../../../ui/text";
import type { PageSubject } from "../../students/subject/usePageSubject";

/** A time of one's own week. */
export type Busy = { number: string; day: number; start: number; end: number };

export type Mine = {
  /** Somebody is signed in who has a cart here. */
  has: boolean;
  cart: Schemas["CartResponse"] | undefined;
  busy: Busy[];
  /** What can be done with sections, by reference number, where it is not just to add them. */
  actions: Map<string, Schemas["ActionOnSection"]>;
  /** The reference numbers of that week, with commas between them. */
  against: string;
};

const NOBODY: Mine = {
  has: false,
  cart: undefined,
  busy: [],
  actions: new Map(),
  against: "",
};

export const MineContext = createContext<Mine>(NOBODY);

export const useMine = (): Mine => useContext(MineContext);

export function useReadMine(subject: PageSubject, has: boolean): Mine {
  const cart = useQuery({ ...cartQuery(subject), enabled: has });
  const week = useQuery({ ...weekQuery(subject), enabled: has });
  const numbers = cart.data?.week;
  const sections = week.data;
  return useMemo(() => {
    if (!has) return NOBODY;
    const counts = new Set(numbers ?? []);
    const all = (sections?.entries ?? []).map(({ section }) => section);
    return {
      has,
      cart: cart.data,
      busy: all.filter(({ number }) => counts.has(number)).flatMap(busyOf),
      actions: new Map((cart.data?.actions ?? []).map((action) => [action.number, action])),
      against: [...counts].sort().join(","),
    };
  }, [has, cart.data, numbers, sections]);
}

function busyOf({ number, meetings }: Schemas["SectionResponse"]): Busy[] {
  return meetings.flatMap(({ dates, start, end }) =>
    [...new Set(dates.map(weekday))].map((day) => ({ number, day, start, end })),
  );
}
