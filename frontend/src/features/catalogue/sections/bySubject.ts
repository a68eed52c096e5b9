import type { Schemas } from "../../../api/client";

export type SubjectSeats = { subject: string; taken: number; left: number };

/** Seats taken and left by subject, in the alphabet's order; seats that sections share count once, with the
    section whose they are, and labs and other linked sections do not count: their students have a seat already. */
export function seatsBySubject(sections: Schemas["OfficeSectionResponse"][]): SubjectSeats[] {
  const found = new Map<string, SubjectSeats>();
  for (const section of sections) {
    if (section.cancelled || section.seats_with || !section.carries_credit) continue;
    const subject = section.name.split(" ")[0] ?? "";
    const now = found.get(subject) ?? { subject, taken: 0, left: 0 };
    now.taken += section.taken;
    now.left += Math.max(0, section.limit - section.taken);
    found.set(subject, now);
  }
  return [...found.values()].sort((one, other) => one.subject.localeCompare(other.subject));
}
