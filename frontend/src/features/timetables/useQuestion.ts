import { useCallback, useEffect, useMemo } from "react";
import { useSearch } from "../../ui/useSearch";
import { PARTS, type Question, readQuestion, writeQuestion } from "./question";
import { recall, remember } from "./remembered";

/** The timetable on show, and the one laid beside it, by their sections. */
const AT = "at";
const BESIDE = "beside";

export type Asking = {
  question: Question;
  /** In the address, but not to be read. */
  strange: string[];
  /** Asks something else; the page before can be gone back to. */
  ask: (edit: (question: Question) => Question) => void;
  at: string[];
  beside: string[];
  /** Shows another timetable. */
  show: (numbers: string[]) => void;
  layBeside: (numbers: string[]) => void;
  /** Asks another question and shows one of its timetables. */
  open: (question: Question, numbers: string[]) => void;
};

function numbersIn(params: URLSearchParams, name: string): string[] {
  return (params.get(name) ?? "").split(",").filter(Boolean);
}

/** What is asked, which timetable is on show: all of it stands in the address. */
export function useQuestion(place: string): Asking {
  const [params, change] = useSearch();
  const address = params.toString();
  const isEmpty = !PARTS.some((part) => params.has(part));
  useEffect(() => {
    // Who comes back by the rail finds what was asked last; by a link, what the link asks.
    const before = recall(place);
    if (isEmpty && before)
      change(
        (next) => {
          for (const [name, value] of new URLSearchParams(before)) next.append(name, value);
        },
        { replace: true },
      );
  }, [isEmpty, place, change]);
  useEffect(() => {
    if (!isEmpty) remember(place, address);
  }, [isEmpty, place, address]);
  const ask = useCallback<Asking["ask"]>(
    (edit) =>
      change((next) => {
        const question = edit(readQuestion(next).question);
        writeQuestion(next, question);
        next.delete(AT);
        const left = new URLSearchParams();
        writeQuestion(left, question);
        if (!left.toString()) remember(place, "");
      }),
    [change, place],
  );
  const put = useCallback(
    (name: string, numbers: string[]) =>
      change(
        (next) => {
          if (numbers.length) next.set(name, numbers.join(","));
          else next.delete(name);
        },
        { replace: true },
      ),
    [change],
  );
  return useMemo(() => {
    const read = new URLSearchParams(address);
    return {
      ...readQuestion(read),
      ask,
      at: numbersIn(read, AT),
      beside: numbersIn(read, BESIDE),
      show: (numbers) => put(AT, numbers),
      layBeside: (numbers) => put(BESIDE, numbers),
      open: (question, numbers) =>
        change((next) => {
          writeQuestion(next, question);
          next.set(AT, numbers.join(","));
        }),
    };
  }, [address, ask, put, change]);
}
