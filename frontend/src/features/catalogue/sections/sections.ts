import type { Schemas } from "../../../api/client";

type Section = Schemas["OfficeSectionResponse"];
type Change = Schemas["SectionsChange"];
type Meeting = Schemas["MeetingCells"];

/** Sections that have every one of the words, in any of what their line shows. */
export function matching(sections: Section[], words: string): Section[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  if (wanted.length === 0) return sections;
  return sections.filter((one) => {
    const shown = [
      one.number,
      one.name,
      one.title,
      one.topic,
      one.times,
      ...one.rooms,
      ...one.teachers.map(({ full_name }) => full_name),
      one.cancelled ? "does not take place" : "",
    ]
      .join(" ")
      .toLowerCase();
    return wanted.every((word) => shown.includes(word));
  });
}

/** What a form holds; an empty text or "stays" is what stays as it is. */
export type SectionDraft = {
  limit: string;
  waitlistLimit: string;
  waitlistWay: "stays" | "offer" | "automatic";
  consent: "stays" | "yes" | "no";
  takesPlace: "stays" | "yes" | "no";
  notes: string;
  meetings: MeetingDraft[];
  reserved: ReservedDraft[];
  teacher: string;
  replaces: string;
};

export type MeetingDraft = Omit<Meeting, "starts" | "ends"> & {
  starts: number | null;
  ends: number | null;
};

export type ReservedDraft = Schemas["ReservedResponse"] & {
  /** Those that are there already keep whom they are for. */
  isNew?: boolean;
};

export function draftOf(sections: Section[]): SectionDraft {
  const [one] = sections;
  const single = sections.length === 1 && one;
  return {
    limit: single ? String(one.limit) : "",
    waitlistLimit: single ? String(one.waitlist_limit) : "",
    waitlistWay: single ? one.waitlist_way : "stays",
    consent: single ? (one.consent_needed ? "yes" : "no") : "stays",
    takesPlace: single ? (one.cancelled ? "no" : "yes") : "stays",
    notes: single ? one.notes : "",
    meetings: single ? one.meetings.map((meeting) => ({ ...meeting })) : [],
    reserved: single ? one.reserved.map((part) => ({ ...part })) : [],
    teacher: "",
    replaces: single ? (one.teachers[0]?.username ?? "") : "",
  };
}

/** Only what is another thing than before; null where something cannot be read, or nothing is. */
export function changeOf(sections: Section[], draft: SectionDraft): Change | null {
  const before = draftOf(sections);
  const change: Change = { numbers: sections.map(({ number }) => number) } as Change;
  const isSingle = sections.length === 1;
  if (draft.limit.trim() !== before.limit) {
    const found = /^([+-]?)(\d{1,6})$/.exec(draft.limit.trim());
    if (!found) return null;
    // Of many a plain number would be one limit for all; "+2" is two more for each.
    if (found[1]) change.limit_by = Number(found[0]);
    else change.limit = Number(found[2]);
  }
  if (draft.waitlistLimit.trim() !== before.waitlistLimit) {
    if (!/^\d{1,5}$/.test(draft.waitlistLimit.trim())) return null;
    change.waitlist_limit = Number(draft.waitlistLimit);
  }
  if (draft.waitlistWay !== before.waitlistWay && draft.waitlistWay !== "stays")
    change.waitlist_way = draft.waitlistWay;
  if (draft.consent !== before.consent && draft.consent !== "stays")
    change.consent_needed = draft.consent === "yes";
  if (draft.takesPlace !== before.takesPlace && draft.takesPlace !== "stays")
    change.cancelled = draft.takesPlace === "no";
  if (isSingle && draft.notes !== before.notes) change.notes = draft.notes;
  const meetings = changedMeetings(before.meetings, draft.meetings);
  if (meetings === null) return null;
  if (meetings.length > 0) change.meetings = meetings;
  const reserved = draft.reserved.filter(
    (part, index) => JSON.stringify(part) !== JSON.stringify(before.reserved[index]),
  );
  if (reserved.some(({ value, seats }) => !value.trim() || !(seats >= 1))) return null;
  if (reserved.length > 0)
    change.reserved = reserved.map(({ isNew: _, value, ...part }) => ({
      ...part,
      value: value.trim(),
    }));
  if (draft.teacher.trim()) {
    change.new_teacher = draft.teacher.trim();
    if (isSingle) change.old_teacher = draft.replaces;
  }
  return Object.keys(change).length > 1 ? change : null;
}

function changedMeetings(
  before: MeetingDraft[],
  now: MeetingDraft[],
): Schemas["MeetingChange"][] | null {
  const found: Schemas["MeetingChange"][] = [];
  for (const [index, meeting] of now.entries()) {
    if (JSON.stringify(meeting) === JSON.stringify(before[index])) continue;
    const { starts, ends, first_day, last_day, weekdays } = meeting;
    if (starts === null || ends === null || !first_day || !last_day || !weekdays) return null;
    found.push({ ...meeting, starts, ends, place: index + 1 });
  }
  return found;
}
