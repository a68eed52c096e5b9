import { type Outcome, VERBS } from "./verdict";

/** What a change does, in a few words: `Add SOIL 240 30412`, `Swap BAKE 120 30988 for 30991`. */
export function ChangeTitle({ outcome, givesUp }: { outcome: Outcome; givesUp: string }) {
  const number = <span className="number">{outcome.number}</span>;
  if (outcome.kind === "wait" && outcome.in_exchange) {
    return (
      <>
        Wait for {outcome.name} {number}, then give up {givesUp}{" "}
        <span className="number">{outcome.in_exchange}</span>
      </>
    );
  }
  if (outcome.kind !== "swap") {
    return (
      <>
        {VERBS[outcome.kind]} {outcome.name} {number}
      </>
    );
  }
  const old = <span className="number">{outcome.in_exchange}</span>;
  return (
    <>
      Swap {givesUp} {old} for {outcome.name === givesUp ? "" : `${outcome.name} `}
      {number}
    </>
  );
}
