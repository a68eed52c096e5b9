import { Button } from "../../ui/Button";
import { credits, shortDay } from "../../ui/text";
import type { Section } from "./layout";

type Props = {
  sections: Section[];
  dropping: Set<string>;
  disabled: boolean;
  onDrop: (number: string) => void;
};

/** What the student is registered for, with dates, credits, grading and instructor. */
export function SectionList({ sections, dropping, disabled, onDrop }: Props) {
  return (
    <ul className="border-t border-ink">
      {sections.map((section) => (
        <li
          key={section.number}
          className="grid grid-cols-[1fr_auto] items-center gap-x-4 gap-y-0.5 border-b border-hair py-2 md:grid-cols-[52px_minmax(0,1.5fr)_minmax(0,1.2fr)_minmax(0,1fr)_auto]"
          data-testid={`registered-${section.number}`}
        >
          <span className="number max-md:order-2 max-md:justify-self-end">{section.number}</span>
          <div className="max-md:order-1">
            <h3 className="font-sans text-[14px] font-semibold">{section.name}</h3>
            <p className="truncate text-small text-soft" title={section.title}>
              {section.title}
            </p>
          </div>
          <div className="text-[13px] max-md:order-3 max-md:col-span-2">
            <p>{section.meetings.map((m) => m.pattern).join(", ") || "no set times"}</p>
            <p className="text-small text-soft">
              {shortDay(section.first_day)} – {shortDay(section.last_day)}
            </p>
          </div>
          <div className="text-[13px] max-md:order-4">
            <p>
              {section.credits
                ? `${credits(section.credits)}, ${section.grading}`
                : "with its lecture"}
            </p>
            <p className="text-small text-soft">
              {section.instructors.join(", ") || "instructor to be named"}
            </p>
          </div>
          <div className="text-right max-md:order-5">
            {dropping.has(section.number) ? (
              <span className="text-[13px] text-soft">drop is in the cart</span>
            ) : (
              <Button disabled={disabled} onClick={() => onDrop(section.number)}>
                Drop<span className="sr-only"> {section.name}: put it into the cart</span>
              </Button>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}
