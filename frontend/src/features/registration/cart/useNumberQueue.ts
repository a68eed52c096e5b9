/**
 * Reference numbers entered one after another: each entry leaves the field at the press and is put
 * into the cart in its turn, while the next one is typed. What is not taken comes back.
 */
import { useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { Schemas } from "../../../api/client";
import { Problem } from "../../../api/problem";

type Report = Schemas["ReportResponse"];
type Enter = (text: string) => Promise<Schemas["PastedResponse"]>;

export function useNumberQueue(onAnswer: (taken: number, left: number) => void) {
  const [text, show] = useState("");
  const [waiting, setWaiting] = useState<string[]>([]);
  const [reports, setReports] = useState<Report[]>([]);
  const [problem, setProblem] = useState<Problem | null>(null);
  /** What stands in the field, what of it has come back, and how many entries are on their way. */
  const now = useRef({ text: "", back: "", entries: 0 });

  const setText = (typed: string) => {
    now.current.text = typed;
    show(typed);
  };

  /** Puts text back behind what came back earlier, before what was typed since. */
  const putBack = (piece: string) => {
    const { text: typed, back } = now.current;
    const isThere = back !== "" && typed.startsWith(back);
    const before = isThere ? `${back} ${piece}` : piece;
    const since = isThere ? typed.slice(back.length).trimStart() : typed;
    now.current.back = before;
    // With a space behind it, so that whoever types on does not make one number of two. Drawn at
    // once: a key pressed before the next drawing would read the field without what came back.
    flushSync(() => setText(`${before} ${since}`));
  };

  const submit = async (enter: Enter) => {
    const entry = now.current.text;
    if (now.current.entries === 0) {
      setReports([]);
      setProblem(null);
    }
    now.current.entries += 1;
    now.current.back = "";
    setText("");
    setWaiting((before) => [...before, entry]);
    try {
      const answer = await enter(entry);
      const left = answer.reports.filter((report) => !report.taken);
      setReports((before) => [...before, ...left]);
      const mend = left.flatMap((report) => (report.mend ? report.piece : []));
      if (mend.length) putBack(mend.join(" "));
      onAnswer(answer.reports.length - left.length, left.length);
    } catch (reason) {
      // It may stand in the cart already: entered again it does no harm.
      putBack(entry);
      if (!(reason instanceof Problem)) throw reason;
      setProblem(reason);
    } finally {
      now.current.entries -= 1;
      setWaiting((before) => before.slice(1));
    }
  };

  return { text, setText, submit, waiting, reports, problem, clear: () => setReports([]) };
}
