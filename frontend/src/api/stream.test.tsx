// @vitest-environment happy-dom
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { connection } from "./connection";
import { type Kind, type Seats, useChanges, useSeats } from "./stream";

/** A stream that says what it is told to say. */
class Source extends EventTarget {
  static readonly CLOSED = 2;
  static all: Source[] = [];
  readyState = 1;
  readonly url: string;

  constructor(url: string) {
    super();
    this.url = decodeURIComponent(url);
    Source.all.push(this);
  }

  close() {
    this.readyState = 2;
  }

  say(kind: "seats" | "changed", data: unknown) {
    if (this.readyState === Source.CLOSED) return;
    act(() => {
      this.dispatchEvent(new MessageEvent(kind, { data: JSON.stringify(data) }));
    });
  }

  fail({ forGood = false } = {}) {
    if (forGood) this.readyState = 2;
    act(() => {
      this.dispatchEvent(new Event("error"));
    });
  }
}

const seats = (left: number) => ({ left, limit: 20 }) as unknown as Seats;

function Shown({ term, number }: { term: string; number: string }) {
  return (
    <p>
      {number}: {useSeats(term, number, seats(9)).left}
    </p>
  );
}

function Follows({ term, onChange }: { term: string; onChange: (kinds: Kind[]) => void }) {
  useChanges(term, "own", onChange);
  return null;
}

const wait = (milliseconds: number) => act(() => vi.advanceTimersByTime(milliseconds));
const open = () => Source.all.filter((source) => source.readyState !== Source.CLOSED);
const [SOON, OVERLAP] = [400, 2_500];

// A stream belongs to a term for good: each test has one of its own.
let term = "";
let turn = 0;

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("EventSource", Source);
  Source.all = [];
  turn += 1;
  term = `term-${turn}`;
});

afterEach(() => {
  cleanup();
  wait(SOON);
  vi.unstubAllGlobals();
  vi.useRealTimers();
  connection.well();
});

test("seats are shown as they were read, and from the first word on as they are", () => {
  render(<Shown term={term} number="30680" />);
  expect(screen.getByText("30680: 9")).toBeDefined();
  wait(SOON);
  expect(open()).toHaveLength(1);
  open()[0]?.say("seats", { "30680": seats(3) });
  expect(screen.getByText("30680: 3")).toBeDefined();
});

test("another stream takes over before the old one ends, and what the old one still says is heard", () => {
  const view = render(<Shown term={term} number="30680" />);
  wait(SOON);
  view.rerender(
    <>
      <Shown term={term} number="30680" />
      <Shown term={term} number="30281" />
    </>,
  );
  wait(SOON);
  const [old, next] = open();
  expect(next?.url).toContain("30281,30680");
  old?.say("seats", { "30680": seats(2) });
  expect(screen.getByText("30680: 2")).toBeDefined();
  next?.say("seats", { "30281": seats(5) });
  old?.say("seats", { "30680": seats(1) });
  expect(screen.getByText("30680: 1")).toBeDefined();
  wait(OVERLAP);
  expect(open()).toEqual([next]);
});

test("what scrolls away and comes back opens no other stream", () => {
  const both = (
    <>
      <Shown term={term} number="30680" />
      <Shown term={term} number="30281" />
    </>
  );
  const view = render(both);
  wait(SOON);
  view.rerender(<Shown term={term} number="30680" />);
  wait(SOON);
  view.rerender(both);
  wait(SOON);
  expect(Source.all).toHaveLength(1);
});

test("when nobody shows or follows anything the stream ends", () => {
  const view = render(<Shown term={term} number="30680" />);
  wait(SOON);
  view.unmount();
  wait(SOON);
  expect(open()).toEqual([]);
});

test("after a lost connection everything may have changed, and it is said while it is lost", () => {
  const changed = vi.fn();
  render(<Follows term={term} onChange={changed} />);
  wait(SOON);
  open()[0]?.say("changed", ["cart"]);
  expect(changed.mock.calls).toEqual([[["cart"]]]);
  open()[0]?.fail();
  changed.mockClear();
  wait(30_000);
  expect(changed.mock.calls[0]?.[0]).toContain("waitlists");
  changed.mockClear();
  open()[0]?.say("seats", {});
  expect(changed.mock.calls[0]?.[0]).toContain("messages");
  changed.mockClear();
  wait(60_000);
  expect(changed).not.toHaveBeenCalled();
});

test("a stream that was refused is asked for again, after longer and longer", () => {
  render(<Follows term={term} onChange={() => undefined} />);
  wait(SOON);
  const pauses = [2_000, 4_000, 8_000, 16_000, 32_000, 60_000, 60_000];
  for (const [at, pause] of pauses.entries()) {
    Source.all[at]?.fail({ forGood: true });
    wait(pause - 1);
    expect(Source.all).toHaveLength(at + 1);
    wait(1);
    expect(Source.all).toHaveLength(at + 2);
  }
});

test("who is signed out elsewhere hears no more", () => {
  const changed = vi.fn();
  render(<Follows term={term} onChange={changed} />);
  wait(SOON);
  open()[0]?.say("changed", ["signed out"]);
  expect(open()).toEqual([]);
  expect(changed).toHaveBeenCalledWith(["signed out"]);
});
