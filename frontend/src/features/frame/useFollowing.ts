/** What the stream says has changed is read again, a moment later: not by all pages at once. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef } from "react";
import { sessionQuery } from "../../api/queries";
import { type Kind, useChanges } from "../../api/stream";
import type { PageSubject } from "../students/subject/usePageSubject";

/** The first parts of the keys of what is read, by what the server says has changed. */
const READ: Record<Kind, string[]> = {
  cart: ["cart", "outlook"],
  week: ["cart", "confirmations", "outlook", "timetables", "account", "office"],
  waitlists: ["waitlists", "news", "cart", "outlook"],
  messages: ["messages", "news"],
  clearance: ["clearance", "cart", "news", "office"],
  account: ["account", "cart"],
  requests: ["requests", "cart"],
  clock: [
    "session",
    "cart",
    "clearance",
    "waitlists",
    "news",
    "messages",
    "outlook",
    "search",
    "timetables",
    "account",
    "owing",
    "requests",
    "to answer",
  ],
  term: ["term", "search", "section", "cart", "outlook", "taught", "timetables", "office"],
  "signed out": [],
};

const SOON = 500;
/** What concerns every page is read by them one after another. */
const SPREAD: Partial<Record<Kind, number>> = { term: 4_000 };

export function useFollowing(subject: PageSubject, isSignedIn: boolean): void {
  const client = useQueryClient();
  const timers = useRef(new Map<string, number>());
  const onChange = useCallback(
    (kinds: Kind[]) => {
      if (kinds.includes("signed out"))
        client.setQueryData(
          sessionQuery.queryKey,
          (session) => session && { ...session, person: null },
        );
      for (const kind of kinds)
        for (const what of READ[kind] ?? []) {
          if (timers.current.has(what)) continue;
          const wait = 100 + Math.random() * (SPREAD[kind] ?? SOON);
          const timer = window.setTimeout(() => {
            timers.current.delete(what);
            client.invalidateQueries({ queryKey: [what] });
          }, wait);
          timers.current.set(what, timer);
        }
    },
    [client],
  );
  useEffect(() => {
    const waiting = timers.current;
    return () => {
      for (const timer of waiting.values()) window.clearTimeout(timer);
      waiting.clear();
    };
  }, []);
  const person = isSignedIn ? (subject.student ?? "own") : null;
  useChanges(subject.term, person, onChange);
}
