import { Dropdown } from "../../ui/Dropdown";
import { pressable } from "../../ui/pressable";
import { CRITERIA, type Criterion } from "./question";
import type { Asking } from "./useQuestion";

const MOST = 3;

/** What makes a timetable the better one: the first decides, the next breaks ties. */
export function Ordering({ asking }: { asking: Asking }) {
  const { order } = asking.question;
  const words = order.map((criterion) => CRITERIA[criterion]).join(", then ");
  return (
    <section aria-labelledby="best-first">
      <h2 id="best-first" className="text-[18px]">
        Best first
      </h2>
      <Dropdown
        className="w-full border-t border-hair py-1.5 text-left hover:underline"
        face={words || <span className="link font-semibold">Say what matters to you</span>}
        title="Best first"
        align="start"
        look="w-[min(290px,calc(100vw-24px))] p-3.5"
      >
        <p className="mb-2 text-small text-soft">
          Up to three: the first decides, the next breaks ties.
        </p>
        <ul className="space-y-0.5">
          {(Object.entries(CRITERIA) as [Criterion, string][]).map(([criterion, name]) => {
            const place = order.indexOf(criterion);
            const isOn = place >= 0;
            return (
              <li key={criterion}>
                <button
                  type="button"
                  aria-pressed={isOn}
                  className="grid min-h-[28px] w-full grid-cols-[20px_1fr] items-center rounded-sm px-1 text-left hover:bg-shade aria-disabled:text-soft aria-disabled:hover:bg-transparent"
                  {...pressable(!isOn && order.length >= MOST, () =>
                    asking.ask((question) => ({
                      ...question,
                      order: isOn
                        ? question.order.filter((other) => other !== criterion)
                        : [...question.order, criterion].slice(0, MOST),
                    })),
                  )}
                >
                  <span className="number">{isOn ? place + 1 : ""}</span>
                  <span className={isOn ? "font-semibold" : ""}>{name}</span>
                </button>
              </li>
            );
          })}
        </ul>
      </Dropdown>
    </section>
  );
}
