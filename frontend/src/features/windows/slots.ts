import type { Schemas } from "../../api/client";
import { clockTime, shortDay } from "../../ui/text";

/** A bar of the picture: windows that open together, by part; behind the parts those kept from before. */
export type Bar = {
  /** The campus' own day and hour. */
  day: string;
  time: string;
  many: number[];
};

/** A moment as the campus writes it, whatever zone this machine is in: `2027-10-18T08:00:00-04:00`. */
function campusParts(moment: string): { day: string; time: string } {
  return { day: moment.slice(0, 10), time: moment.slice(11, 16) };
}

export function openingBars(opening: Schemas["OpeningAt"][]): Bar[] {
  return opening.map(({ opens_at, many }) => ({ ...campusParts(opens_at), many: [many] }));
}

export function assignmentBars({ parts, slots }: Schemas["AssignmentResponse"]): Bar[] {
  return slots.map(({ opens_at, part, assigned, kept }) => ({
    ...campusParts(opens_at),
    many: [...parts.map((_, index) => (index === part ? assigned : 0)), kept],
  }));
}

export function barName({ day, time }: Bar): string {
  return `${shortDay(day)}, ${time}`;
}

/** Credits from which bands begin, most first: `81, 54, 27`. Null where that cannot be read. */
export function bandsOf(text: string): number[] | null {
  const parts = text.split(/[\s,;]+/).filter(Boolean);
  const bands = parts.map(Number);
  const inOrder = bands.every((band, index) => index === 0 || band < (bands[index - 1] ?? 0));
  return bands.every((band) => band > 0 && band <= 1000) && inOrder && bands.length <= 12
    ? bands
    : null;
}

export type Draft = {
  firstDay: string;
  weekdays: string;
  starts: number | null;
  ends: number | null;
  slotMinutes: number;
  capacity: number;
  closesDay: string;
  closesAt: number | null;
  bands: string;
  groups: Schemas["GroupWanted"][];
  seed: string;
};

/** The rule that a form says; null where something in it is missing. */
export function ruleOf(draft: Draft): Schemas["RuleOfAssignment"] | null {
  const bands = bandsOf(draft.bands);
  const { firstDay, closesDay, starts, ends, closesAt } = draft;
  if (!bands || starts === null || ends === null || closesAt === null) return null;
  if (!firstDay || !closesDay || !draft.weekdays || !draft.seed.trim()) return null;
  if (!(draft.capacity >= 1) || draft.groups.some(({ value }) => !value)) return null;
  return {
    groups: draft.groups,
    bands,
    first_day: firstDay,
    weekdays: draft.weekdays,
    starts,
    ends,
    slot_minutes: draft.slotMinutes,
    capacity: draft.capacity,
    closes_at: `${closesDay}T${clockTime(closesAt)}:00`,
    seed: draft.seed.trim(),
  };
}
