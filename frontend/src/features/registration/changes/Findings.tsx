import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { usePageSubject } from "../../students/subject/usePageSubject";

type Action = Schemas["ActionResponse"];
type Remedy = Schemas["RemedyResponse"];
type Props = {
  findings: Schemas["FindingResponse"][];
  /** Other sections that would go through in its place. */
  instead?: Remedy[];
  onAct?: (action: Action) => void;
};

/** What the rules say about a change, with the ways on; those the screen can do are buttons. */
export function Findings({ findings, instead = [], onAct }: Props) {
  const isActing = usePageSubject().student !== undefined;
  const ways = unique([...instead, ...findings.flatMap((finding) => finding.remedies)]);
  const doable = ways.filter((way) => way.action && onAct);
  const others = ways.filter((way) => !way.action || !onAct);
  return (
    <>
      {findings.map((finding) => (
        <span key={finding.code + finding.text}>{finding.text} </span>
      ))}
      {doable.length > 0 && (
        <ul className="mt-0.5">
          {doable.map((way) => (
            <li key={way.text}>
              <Button
                look="link"
                className="min-h-[24px] py-[3px]"
                onClick={() => way.action && onAct?.(way.action)}
              >
                {isActing ? whatYouCanDo(way) : way.text.replace(/\.$/, "")}
              </Button>
            </li>
          ))}
        </ul>
      )}
      {others.length > 0 && (
        <details className="mt-1">
          <summary className="w-fit py-[3px] text-soft hover:text-ink">What you can do</summary>
          <ul className="mt-1 list-disc space-y-0.5 pl-4">
            {others.map((way) => (
              <li key={way.text}>{way.text}</li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}

/** Said to whoever acts for a student: what is theirs to do, they need ask nobody for. */
function whatYouCanDo({ action, text }: Remedy): string {
  if (action?.target === "clearance") return "See what is open, and do what is yours";
  if (action?.target === "ask") return "See what can be asked for, or allowed by you";
  return text.replace(/\.$/, "");
}

function unique(ways: Remedy[]): Remedy[] {
  return [...new Map(ways.map((way) => [way.text, way])).values()];
}
