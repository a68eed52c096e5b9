/**
 * The one stream of server-sent events that a page keeps: the seats of the sections it shows, and
 * what of the student's own has changed.
 *
 * Parts of the page say which sections they show; where the stream does not cover them another one is
 * opened, a moment later, and the old one closed a moment after the new one speaks: nothing is missed
 * between.
 * A browser opens a lost stream again by itself; meanwhile the page says that the connection is lost,
 * and reads slowly what it would be told.
 */
import { useCallback, useEffect, useMemo, useSyncExternalStore } from "react";
import type { Schemas } from "./client";
import { connection } from "./connection";

export type Seats = Schemas["SeatsResponse"];

/** What the server may say has changed. */
export type Kind =
  | "cart"
  | "week"
  | "waitlists"
  | "messages"
  | "clearance"
  | "account"
  | "requests"
  | "clock"
  | "term"
  | "signed out";

/** All that may have changed while nobody listened. */
const ANYTHING: Kind[] = [
  "cart",
  "week",
  "waitlists",
  "messages",
  "clearance",
  "account",
  "requests",
  "clock",
  "term",
];

/** Whose changes are told: one's own, those of a student one acts for, or nobody's. */
type Person = number | "own" | null;

/** Sections at most that one stream is about; those shown last stay in it. */
const MOST = 300;
const PATIENCE = 300;
/** Longer than the server gathers before it says something. */
const OVERLAP = 2_000;
const RETRY = 2_000;
const LONGEST_RETRY = 60_000;
/** So slowly things are read where there is no stream. */
const SLOWLY = 30_000;

class TermStream {
  private readonly term: string;
  private person: Person = null;
  private keepers = 0;
  private known = new Map<string, Seats>();
  private readonly shown = new Map<string, number>();
  /** In order of being shown; what scrolled away stays for a while. */
  private wanted = new Set<string>();
  private covered = new Set<string>();
  private coveredPerson: Person = null;
  private source: EventSource | null = null;
  private timer = 0;
  private failures = 0;
  private lostAt = 0;
  private poll = 0;
  private readonly listeners = new Map<string, Set<() => void>>();
  private readonly changeListeners = new Set<(kinds: Kind[]) => void>();

  constructor(term: string) {
    this.term = term;
  }

  get(number: string): Seats | undefined {
    return this.known.get(number);
  }

  subscribe(number: string, listener: () => void): () => void {
    const listeners = this.listeners.get(number) ?? new Set();
    this.listeners.set(number, listeners.add(listener));
    return () => listeners.delete(listener);
  }

  show(number: string): () => void {
    this.shown.set(number, (this.shown.get(number) ?? 0) + 1);
    this.wanted.delete(number);
    this.wanted.add(number);
    this.plan();
    return () => {
      const left = (this.shown.get(number) ?? 1) - 1;
      if (left) this.shown.set(number, left);
      else this.shown.delete(number);
      if (!this.isWanted()) this.plan();
    };
  }

  /** Be told what changes, whether sections are shown or not. */
  follow(person: Person, onChange: (kinds: Kind[]) => void): () => void {
    this.person = person;
    this.keepers += 1;
    this.changeListeners.add(onChange);
    this.plan(0);
    return () => {
      this.keepers -= 1;
      this.changeListeners.delete(onChange);
      if (this.keepers === 0) this.person = null;
      this.plan();
    };
  }

  private isWanted(): boolean {
    return this.shown.size > 0 || this.keepers > 0;
  }

  private plan(wait = PATIENCE): void {
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => this.open(), wait);
  }

  private open(): void {
    if (!this.isWanted()) {
      this.close();
      return;
    }
    const isOpen = this.source && this.source.readyState !== EventSource.CLOSED;
    const isCovered = [...this.shown.keys()].every((number) => this.covered.has(number));
    if (isOpen && isCovered && this.coveredPerson === this.person) return;
    this.wanted = new Set([...this.wanted].slice(-MOST));
    this.covered = new Set([...this.wanted, ...this.shown.keys()].slice(0, 399));
    this.coveredPerson = this.person;
    const query = new URLSearchParams({ numbers: [...this.covered].sort().join(",") });
    if (typeof this.person === "number") query.set("student", String(this.person));
    const before = this.source;
    const source = new EventSource(`/api/terms/${encodeURIComponent(this.term)}/stream?${query}`);
    this.source = source;
    source.addEventListener("seats", (event) => {
      // What the old one has gathered and not yet said is still to come.
      if (before) window.setTimeout(() => before.close(), OVERLAP);
      this.isSpeaking();
      this.take(JSON.parse(event.data));
    });
    source.addEventListener("changed", (event) => this.tell(JSON.parse(event.data)));
    source.addEventListener("error", () => {
      before?.close();
      if (this.source === source) this.isSilent(source.readyState === EventSource.CLOSED);
    });
  }

  private isSpeaking(): void {
    connection.well();
    window.clearInterval(this.poll);
    this.poll = 0;
    this.failures = 0;
    if (this.lostAt) {
      this.lostAt = 0;
      this.tell(ANYTHING);
    }
  }

  private isSilent(forGood: boolean): void {
    connection.lost();
    this.lostAt ||= Date.now();
    this.poll ||= window.setInterval(() => this.tell(ANYTHING), SLOWLY);
    if (!forGood) return;
    // A browser gives up where the answer was no stream at all; each time it is left longer.
    this.failures += 1;
    this.plan(Math.min(RETRY * 2 ** (this.failures - 1), LONGEST_RETRY));
  }

  private tell(kinds: Kind[]): void {
    if (kinds.includes("signed out")) {
      this.close();
      this.person = null;
    }
    for (const listener of this.changeListeners) listener(kinds);
  }

  private close(): void {
    this.source?.close();
    this.source = null;
    window.clearInterval(this.poll);
    this.poll = 0;
    this.covered = new Set();
  }

  private take(told: Record<string, Seats>): void {
    for (const [number, seats] of Object.entries(told)) {
      this.known.set(number, seats);
      for (const listener of this.listeners.get(number) ?? []) listener();
    }
  }
}

const streams = new Map<string, TermStream>();

function streamOf(term: string): TermStream {
  const stream = streams.get(term) ?? new TermStream(term);
  streams.set(term, stream);
  return stream;
}

/** The seats of a section as they are now; until the first word of it, as they were read. */
export function useSeats(term: string, number: string, read: Seats): Seats {
  const stream = streamOf(term);
  const live = useSyncExternalStore(
    (listener) => stream.subscribe(number, listener),
    () => stream.get(number),
  );
  useEffect(() => stream.show(number), [stream, number]);
  return live ?? read;
}

/** Of these sections those that have no seat left, as they are now; until the first word of one, as it was
 * read. */
export function useFull(
  term: string,
  numbers: string[],
  read: Record<string, { seats: Seats }>,
): Set<string> {
  const stream = streamOf(term);
  const joined = numbers.join(",");
  const subscribe = useCallback(
    (listener: () => void) => {
      const undo = joined.split(",").map((number) => stream.subscribe(number, listener));
      return () => {
        for (const step of undo) step();
      };
    },
    [stream, joined],
  );
  const full = useSyncExternalStore(subscribe, () =>
    numbers.filter((n) => (stream.get(n) ?? read[n]?.seats)?.left === 0).join(","),
  );
  return useMemo(() => new Set(full.split(",")), [full]);
}

/** Calls back when the seats of one of these sections change; with those before, if they were known. */
function useSeatChanges(
  term: string,
  numbers: string[],
  onChange: (number: string, seats: Seats, before: Seats | undefined) => void,
): void {
  const joined = numbers.join(",");
  useEffect(() => {
    const stream = streamOf(term);
    const undo = joined.split(",").flatMap((number) => {
      if (!number) return [];
      let before = stream.get(number);
      const listener = () => {
        const seats = stream.get(number);
        if (seats) onChange(number, seats, before);
        before = seats;
      };
      return [stream.subscribe(number, listener), stream.show(number)];
    });
    return () => {
      for (const step of undo) step();
    };
  }, [term, joined, onChange]);
}

/** Calls back when the seats of one of these sections change from or to none left. */
export function useSeatTurns(
  term: string,
  numbers: string[],
  onTurn: (number: string, seats: Seats) => void,
): void {
  const onChange = useCallback(
    (number: string, seats: Seats, before: Seats | undefined) => {
      if (before && seats.left > 0 !== before.left > 0) onTurn(number, seats);
    },
    [onTurn],
  );
  useSeatChanges(term, numbers, onChange);
}

/** Calls back when anybody registers for a section, drops it, or joins or leaves its waitlist. */
export function useComings(term: string, number: string, onComing: () => void): void {
  const onChange = useCallback(
    (_: string, __: Seats, before: Seats | undefined) => {
      if (before) onComing();
    },
    [onComing],
  );
  useSeatChanges(term, [number], onChange);
}

/** Calls back with what has changed, as long as it is asked for. */
export function useChanges(term: string, person: Person, onChange: (kinds: Kind[]) => void): void {
  useEffect(() => streamOf(term).follow(person, onChange), [term, person, onChange]);
}
