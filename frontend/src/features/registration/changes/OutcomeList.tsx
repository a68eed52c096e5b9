import { money } from "../../../ui/text";
import { ChangeTitle } from "./ChangeTitle";
import { Findings } from "./Findings";
import { EDGES, WORDS } from "./tones";
import { type Outcome, verdictOf } from "./verdict";

type Props = {
  outcomes: Outcome[];
  /** It has not been sent: what would become of each. */
  isAhead?: boolean;
  /** Of each change, below the heading that it stands under. */
  heading?: "h2" | "h3";
};

/** What became of each change, as a confirmation has it; or what would. */
export function OutcomeList({ outcomes, isAhead = false, heading: Heading = "h3" }: Props) {
  return (
    <ol>
      {outcomes.map((outcome) => {
        const { word, tone } = verdictOf(outcome, isAhead ? "" : null);
        return (
          <li
            key={outcome.kind + outcome.number + outcome.in_exchange}
            className={`border-b border-l-4 border-hair py-2.5 pr-4 pl-3.5 ${EDGES[tone]}`}
          >
            <Heading className="font-sans text-[14px] font-semibold">
              <ChangeTitle outcome={outcome} givesUp="" />
            </Heading>
            <p className="text-small text-soft">{outcome.title}</p>
            <div className="mt-0.5 text-[13px] leading-snug">
              <b className={`font-semibold ${WORDS[tone]}`}>{word}</b>{" "}
              {outcome.withdrawn && "Your record shows a W. "}
              {outcome.also_dropped.map(({ name, number }) => (
                <span key={number}>
                  {name} <span className="number">{number}</span> dropped too.{" "}
                </span>
              ))}
              {outcome.refund_cents > 0 && `${money(outcome.refund_cents)} no longer due. `}
              <Findings findings={outcome.findings} />
            </div>
          </li>
        );
      })}
    </ol>
  );
}
