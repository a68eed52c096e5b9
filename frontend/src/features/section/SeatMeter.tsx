import { useEffect, useRef, useState } from "react";
import { type Seats, useSeats } from "../../api/stream";

type Props = { term: string; number: string; seats: Seats; cancelled?: boolean };

/** A bar cut at taken, offered and left, with the number left in words. It follows the truth. */
export function SeatMeter({ term, number, seats: read, cancelled = false }: Props) {
  const seats = useSeats(term, number, read);
  const words = seatWords(seats);
  const changed = useChanged(words);
  if (cancelled) return <span className="text-small text-madder">cancelled</span>;
  const all = Math.max(seats.limit, seats.taken + seats.offered, 1);
  const full = seats.left === 0;
  return (
    <div data-testid={`seats-${number}`}>
      <div className="flex h-[6px] bg-[#e7e0d0]" aria-hidden>
        <span
          className={full ? "bg-[#8d8b84]" : "bg-ink"}
          style={{ width: `${(seats.taken / all) * 100}%` }}
        />
        <span className="bg-plum" style={{ width: `${(seats.offered / all) * 100}%` }} />
      </div>
      <p
        className={`mt-0.5 text-small leading-tight transition-colors duration-1000 ${changed ? "bg-[#f1e3c6]" : ""} ${full ? (hasRoom(seats) ? "text-woad" : "text-soft") : ""}`}
      >
        <b className="font-semibold">{words.main}</b>
        {words.rest}
      </p>
    </div>
  );
}

/** The number left, in words alone. */
export function SeatsNow({ term, number, seats: read }: Omit<Props, "cancelled">) {
  const { main, rest } = seatWords(useSeats(term, number, read));
  return (
    <span className="whitespace-nowrap">
      {main}
      {rest}
    </span>
  );
}

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

/** True for a moment after the words have changed, so that the change is seen. */
function useChanged({ main, rest }: { main: string; rest: string }): boolean {
  const text = main + rest;
  const last = useRef(text);
  const [changed, setChanged] = useState(false);
  useEffect(() => {
    if (last.current === text) return;
    last.current = text;
    setChanged(true);
    const timer = window.setTimeout(() => setChanged(false), 900);
    return () => window.clearTimeout(timer);
  }, [text]);
  return changed;
}
