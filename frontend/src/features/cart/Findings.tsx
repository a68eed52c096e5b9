import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";

type Props = {
  findings: Schemas["FindingView"][];
  onAct?: (action: Schemas["ActionView"]) => void;
  isInCart?: (number: string) => boolean;
};

/** What the rules say about a change, with the ways on; those the screen can do are buttons. */
export function Findings({ findings, onAct, isInCart }: Props) {
  const ways = findings.flatMap((finding) => finding.remedies);
  const doable = ways.filter((way) => way.action && onAct && !isInCart?.(way.action.number));
  const others = ways.filter((way) => !way.action || !onAct);
  return (
    <>
      {findings.map((finding) => (
        <span key={finding.code + finding.text}>{finding.text} </span>
      ))}
      {doable.length > 0 && (
        <ul className="mt-1 space-y-0.5">
          {doable.map((way) => (
            <li key={way.text}>
              <Button look="link" onClick={() => way.action && onAct?.(way.action)}>
                {way.text.replace(/\.$/, "")}
              </Button>
            </li>
          ))}
        </ul>
      )}
      {others.length > 0 && (
        <details className="mt-1">
          <summary className="w-fit text-soft hover:text-ink">What you can do</summary>
          <ul className="mt-1 list-disc space-y-0.5 pl-4">
            {[...new Set(others.map((way) => way.text))].map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
