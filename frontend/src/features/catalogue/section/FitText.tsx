import type { Schemas } from "../../../api/client";
import { useMine } from "./useMine";

type Row = Schemas["SectionRow"];

/** How a section stands to one's own week, in words; nothing for who has none. */
export function FitText({ row }: { row: Row }) {
  const { has } = useMine();
  if (!has) return null;
  const { text, look } = fitWords(row);
  return <span className={`text-small ${look}`}>{text}</span>;
}

function fitWords({ fit, meetings }: Row): { text: string; look: string } {
  const [first, ...more] = fit.clashes;
  if (first) {
    const others = more.length ? ` and ${more.length} more` : "";
    return { text: `clashes with ${first.name}${others}`, look: "text-madder" };
  }
  const none = fit.linked_sections.find(({ fitting }) => fitting === 0);
  if (none) return { text: `no ${none.component} fits`, look: "text-madder" };
  if (fit.tight) {
    const { minutes, takes } = fit.tight;
    return { text: `tight: ${minutes} of ${takes} min`, look: "text-ochre" };
  }
  const together = fit.linked_sections
    .map(({ component, fitting, all }) =>
      all === 1 ? `the ${component}` : `${fitting} of ${all} ${component}s`,
    )
    .join(", ");
  if (together) return { text: `fits, with ${together}`, look: "text-pine" };
  if (meetings.length === 0) return { text: "no set times", look: "text-soft" };
  return { text: "fits", look: "text-pine" };
}
