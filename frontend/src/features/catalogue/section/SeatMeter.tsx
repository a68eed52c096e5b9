import { useEffect, useRef, useState } from "react";
import { type Seats, useSeats } from "../../../api/stream";
import { hasRoom, seatWords } from "./seats";

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
      <div className="flex h-[6px] forced-color-adjust-none bg-[#e7e0d0]" aria-hidden>
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
