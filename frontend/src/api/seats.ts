/**
 * Live seats: one stream of server-sent events for all that the page shows.
 *
 * Parts of the page say which sections they show; the stream is opened anew, a moment later, when
 * it does not cover them. A browser opens a lost stream again by itself; meanwhile the page says
 * that the connection is lost.
 */
import { useEffect, useSyncExternalStore } from "react";
import type { Schemas } from "./client";
import { connection } from "./connection";

export type Seats = Schemas["SeatsView"];

/** Sections at most that one stream is about; those shown last stay in it. */
const MOST = 300;
const PATIENCE = 300;
const RETRY = 2_000;

class SeatFeed {
  private readonly term: string;
  private known = new Map<string, Seats>();
  private readonly shown = new Map<string, number>();
  /** In order of being shown; what scrolled away stays for a while. */
  private wanted = new Set<string>();
  private covered = new Set<string>();
  private source: EventSource | null = null;
  private timer = 0;
  private readonly listeners = new Map<string, Set<() => void>>();

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
      if (this.shown.size === 0) this.plan();
    };
  }

  private plan(wait = PATIENCE): void {
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => this.open(), wait);
  }

  private open(): void {
    if (this.shown.size === 0) {
      this.close();
      return;
    }
    const isOpen = this.source && this.source.readyState !== EventSource.CLOSED;
    if (isOpen && [...this.shown.keys()].every((number) => this.covered.has(number))) return;
    this.close();
    this.wanted = new Set([...this.wanted].slice(-MOST));
    this.covered = new Set([...this.wanted, ...this.shown.keys()].slice(0, 399));
    const numbers = [...this.covered].sort().join(",");
    const source = new EventSource(
      `/api/terms/${encodeURIComponent(this.term)}/seats?numbers=${numbers}`,
    );
    source.addEventListener("open", () => connection.well());
    source.addEventListener("seats", (event) => this.take(JSON.parse(event.data)));
    source.addEventListener("error", () => {
      connection.lost();
      // A browser gives up for good where the answer was no stream at all.
      if (source.readyState === EventSource.CLOSED) this.plan(RETRY);
    });
    this.source = source;
  }

  private close(): void {
    this.source?.close();
    this.source = null;
    this.covered = new Set();
  }

  private take(told: Record<string, Seats>): void {
    for (const [number, seats] of Object.entries(told)) {
      this.known.set(number, seats);
      for (const listener of this.listeners.get(number) ?? []) listener();
    }
  }
}

const feeds = new Map<string, SeatFeed>();

function feedOf(term: string): SeatFeed {
  const feed = feeds.get(term) ?? new SeatFeed(term);
  feeds.set(term, feed);
  return feed;
}

/** The seats of a section as they are now; until the first word of it, as they were read. */
export function useSeats(term: string, number: string, read: Seats): Seats {
  const feed = feedOf(term);
  const live = useSyncExternalStore(
    (listener) => feed.subscribe(number, listener),
    () => feed.get(number),
  );
  useEffect(() => feed.show(number), [feed, number]);
  return live ?? read;
}

/** Calls back when the seats of one of these sections change from or to none left. */
export function useSeatTurns(
  term: string,
  numbers: string[],
  onTurn: (number: string, seats: Seats) => void,
): void {
  const joined = numbers.join(",");
  useEffect(() => {
    const feed = feedOf(term);
    const undo = joined.split(",").flatMap((number) => {
      if (!number) return [];
      let before = feed.get(number)?.left;
      const listener = () => {
        const seats = feed.get(number);
        if (seats && before !== undefined && seats.left > 0 !== before > 0) onTurn(number, seats);
        before = seats?.left;
      };
      return [feed.subscribe(number, listener), feed.show(number)];
    });
    return () => {
      for (const step of undo) step();
    };
  }, [term, joined, onTurn]);
}
