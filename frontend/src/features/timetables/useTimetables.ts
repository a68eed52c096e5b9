/** The answer to a question of Timetables, kept true as seats move. */
import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useFull, useSeatTurns } from "../../api/stream";
import { fittingQuery, timetablesQuery } from "../../api/timetableQueries";
import type { PageSubject } from "../students/subject/usePageSubject";
import type { Asking } from "./useQuestion";
import type { Timetable } from "./words";

type Answer = Schemas["TimetablesResponse"];
export type Rows = Answer["sections"];

export type OnWall = {
  timetable: Timetable;
  /** It worked a moment ago. */
  isGone: boolean;
};

/** Sections whose seats one page follows for Timetables. */
const FOLLOWED = 250;
/** So long seats may move before it is asked again. */
const SOON = 400;

export function useTimetables(subject: PageSubject, { question, at, beside }: Asking) {
  const client = useQueryClient();
  const isAsked = question.wants.length + question.may_move.length > 0;
  const query = timetablesQuery(subject, question);
  const found = useInfiniteQuery({ ...query, enabled: isAsked });
  const answer = isAsked ? found.data?.pages[0] : undefined;
  const pages = isAsked ? (found.data?.pages ?? NONE) : NONE;
  const known = useRef<Rows>({});
  const rows = useMemo(() => {
    // What was seen stays known: a timetable whose section has filled is still shown.
    known.current = Object.assign({}, known.current, ...pages.map(({ sections }) => sections));
    return known.current;
  }, [pages]);
  const followed = useMemo(() => (answer?.looked_at ?? []).slice(0, FOLLOWED), [answer]);
  const timer = useRef(0);
  const again = useCallback(() => {
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(
      () => client.invalidateQueries({ queryKey: ["timetables"] }),
      SOON + Math.random() * SOON,
    );
  }, [client]);
  useEffect(() => () => window.clearTimeout(timer.current), []);
  useSeatTurns(subject.term, followed, again);
  const full = useFull(subject.term, followed, rows);
  const wall = useWall(pages, JSON.stringify(question), full, question.seats === "left");
  const shown = useOne(subject, question, at, wall);
  const other = useOne(subject, question, beside, wall);
  return {
    found,
    isAsked,
    answer,
    rows: { ...rows, ...shown.rows, ...other.rows },
    wall,
    shown,
    other,
  };
}

const NONE: Answer[] = [];

/** What stands on the wall. A timetable that has just ceased to work stays in its place, marked. */
function useWall(
  pages: Answer[],
  question: string,
  full: Set<string>,
  needsSeats: boolean,
): OnWall[] {
  const [kept, setKept] = useState<{ question: string; wall: Timetable[] }>({
    question,
    wall: [],
  });
  const now = useMemo(() => pages.flatMap(({ timetables }) => timetables), [pages]);
  const wall = useMemo(() => {
    const here = new Set(now.map(idOf));
    const merged: OnWall[] = now.map((timetable) => ({ timetable, isGone: false }));
    if (kept.question === question)
      kept.wall.forEach((timetable, place) => {
        if (!here.has(idOf(timetable)) && place < now.length + 1 && isFull(timetable, full))
          merged.splice(Math.min(place, merged.length), 0, { timetable, isGone: true });
      });
    return merged.map((one) => ({
      ...one,
      isGone: one.isGone || (needsSeats && isFull(one.timetable, full)),
    }));
  }, [now, kept, question, full, needsSeats]);
  useEffect(() => {
    setKept((before) => {
      const next = wall.map(({ timetable }) => timetable);
      const same =
        before.question === question &&
        before.wall.map(idOf).join("|") === next.map(idOf).join("|");
      return same ? before : { question, wall: next };
    });
  }, [wall, question]);
  return wall;
}

export const idOf = ({ numbers }: Timetable): string => numbers.join(",");

/** Whether some part of it has no seat left, those alike included. */
export function isFull({ parts }: Timetable, full: Set<string>): boolean {
  return parts.some(({ numbers, alike }) =>
    [numbers, ...alike].every((members) => members.some((number) => full.has(number))),
  );
}

type One = { timetable: Timetable | undefined; isGone: boolean; isLost: boolean; rows: Rows };

/** A timetable by its sections: from the wall, or asked for. */
function useOne(
  subject: PageSubject,
  question: Asking["question"],
  numbers: string[],
  wall: OnWall[],
): One {
  const id = [...numbers].sort().join(",");
  const there = wall.find(({ timetable }) => idOf(timetable) === id);
  const isMissing = numbers.length > 0 && !there && wall.length > 0;
  const asked = useQuery({
    ...fittingQuery(subject, question, numbers),
    enabled: isMissing,
  });
  if (there) return { ...there, isLost: false, rows: NO_ROWS };
  const found = isMissing ? asked.data : undefined;
  return {
    timetable: found?.shown ?? undefined,
    isGone: false,
    isLost: isMissing && asked.isSuccess && !found?.shown,
    rows: found?.sections ?? NO_ROWS,
  };
}

const NO_ROWS: Rows = {};
