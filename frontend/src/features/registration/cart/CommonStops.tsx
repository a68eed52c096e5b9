import type { Schemas } from "../../../api/client";
import { Findings } from "../changes/Findings";
import { commonStops } from "../changes/verdict";

type Props = {
  changes: Schemas["CartChangeResponse"][];
  onAct: (action: Schemas["ActionResponse"]) => void;
};

/** What stops everything alike stands once at the top, with each way on once. */
export function CommonStops({ changes, onAct }: Props) {
  const stops = commonStops(changes.map((change) => change.outcome));
  if (stops.length === 0) return null;
  const isEarly = stops.every(({ code }) => code === "window.early");
  return (
    <section
      aria-label="What stands in the way"
      className="border-b border-ink bg-paper px-[18px] py-2.5 text-[13px] leading-snug"
    >
      <b className={`font-semibold ${isEarly ? "text-woad" : "text-madder"}`}>
        {isEarly ? "Not yet." : "Stopped."}
      </b>{" "}
      <Findings findings={stops} onAct={onAct} />
    </section>
  );
}
