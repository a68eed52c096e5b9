import { lazy, Suspense, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { holdKeys } from "../../../ui/heldKeys";
import { credits, shortDay } from "../../../ui/text";
import type { Chosen } from "../changes/useCartChanges";
import type { Section } from "./layout";

// The forms come when one is first opened.
const AdjustForm = lazy(async () => ({ default: (await import("./AdjustForm")).AdjustForm }));
const SwapForm = lazy(async () => ({ default: (await import("./SwapForm")).SwapForm }));

type Props = {
  entries: Schemas["WeekEntryResponse"][];
  today: string;
  disabled: boolean;
  onPut: (changes: Schemas["ProposedChangeSchema"][]) => void;
  onAdjust: (number: string, chosen: Chosen) => void;
};

const PLANNED = {
  drop: "drop is in the cart",
  swap: "swap is in the cart",
  adjust: "adjusting is in the cart",
} as const;

/** What the student is registered for, with dates, credits, grading and instructor. */
export function SectionList({ entries, today, disabled, onPut, onAdjust }: Props) {
  const [open, setOpen] = useState<{ number: string; form: "swap" | "adjust" } | null>(null);
  return (
    <ul className="border-t border-ink">
      {entries.map(({ section, planned: plan }) => {
        const form = open?.number === section.number ? open.form : null;
        const toggle = (next: "swap" | "adjust") =>
          setOpen(form === next ? null : { number: section.number, form: next });
        return (
          <li
            key={section.number}
            className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 gap-y-0.5 border-b border-hair py-2 md:grid-cols-[52px_minmax(0,1.4fr)_minmax(0,1.1fr)_minmax(0,1fr)_182px]"
            data-testid={`registered-${section.number}`}
          >
            <span className="number max-md:order-2 max-md:justify-self-end">{section.number}</span>
            <div className="min-w-0 max-md:order-1">
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
              <p>{worth(section)}</p>
              <p className="truncate text-small text-soft">
                {section.instructors.join(", ") || "instructor to be named"}
              </p>
            </div>
            <div className="flex justify-end gap-2 text-right text-[13px] max-md:order-5 max-md:col-span-2">
              {plan ? (
                <span className="text-soft">{PLANNED[plan]}</span>
              ) : (
                <>
                  {canAdjust(section, today) && (
                    <Button
                      look="quiet"
                      disabled={disabled}
                      aria-expanded={form === "adjust"}
                      onClick={() => toggle("adjust")}
                    >
                      Adjust<span className="sr-only"> {section.name}</span>
                    </Button>
                  )}
                  <Button
                    look="quiet"
                    disabled={disabled}
                    aria-expanded={form === "swap"}
                    onClick={() => {
                      if (form !== "swap") holdKeys();
                      toggle("swap");
                    }}
                  >
                    Swap<span className="sr-only"> {section.name}</span>
                  </Button>
                  <Button
                    disabled={disabled}
                    onClick={() =>
                      onPut([{ kind: "drop", number: section.number, in_exchange: "" }])
                    }
                  >
                    Drop<span className="sr-only"> {section.name}: put it into the cart</span>
                  </Button>
                </>
              )}
            </div>
            <Suspense>
              {form === "swap" && !plan && (
                <SwapForm
                  section={section}
                  onClose={() => setOpen(null)}
                  onSwap={(number) => {
                    onPut([{ kind: "swap", number, in_exchange: section.number }]);
                    setOpen(null);
                  }}
                />
              )}
              {form === "adjust" && !plan && (
                <AdjustForm
                  section={section}
                  onAdjust={(chosen) => {
                    onAdjust(section.number, chosen);
                    setOpen(null);
                  }}
                />
              )}
            </Suspense>
          </li>
        );
      })}
    </ul>
  );
}

/** Whether grading or credits can still be chosen. */
function canAdjust(section: Section, today: string): boolean {
  const choices = section.gradings.length > 1 || section.credits_least < section.credits_most;
  return choices && today <= section.adjust_by;
}

function worth({ credits: many, grading, gradings, earns_credits }: Section): string {
  if (gradings.length === 0) return "with its lecture";
  return earns_credits ? `${credits(many)}, ${grading}` : `${grading}, no credits`;
}
