/** What seat figures are called in words. */
import type { Seats } from "../../../api/stream";

export function hasRoom(seats: Seats): boolean {
  return seats.waiting < seats.waitlist_limit;
}

/** `7 left` ` of 24, 1 offered`; when full, `full` `, 3 of 8 waiting`. */
export function seatWords(seats: Seats): { main: string; rest: string } {
  const { limit, left, offered, reserved, waiting, waitlist_limit } = seats;
  if (left > 0) {
    const more = [offered && `${offered} offered`, reserved && `${reserved} kept for some`];
    return {
      main: `${left} left`,
      rest: [` of ${limit}`, ...more.filter(Boolean)].join(", "),
    };
  }
  if (waitlist_limit === 0) return { main: "full", rest: `, ${limit} seats, no waitlist` };
  if (waiting >= waitlist_limit) return { main: "full", rest: ", waitlist full" };
  return { main: "full", rest: `, ${waiting} of ${waitlist_limit} waiting` };
}
