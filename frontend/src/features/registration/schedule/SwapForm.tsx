import { SectionPicker } from "../../catalogue/section/SectionPicker";
import type { Section } from "./layout";

type Props = { section: Section; onSwap: (number: string) => void; onClose: () => void };

/** Pick the section that is wanted; the one held is kept until the swap goes through. */
export function SwapForm({ section, onSwap, onClose }: Props) {
  return (
    <div className="order-last col-span-full">
      <SectionPicker
        number={section.number}
        legend={`Swap ${section.name} for`}
        taken={[section.number]}
        inFind={{ is: "swap", number: section.number }}
        onPick={onSwap}
        onClose={onClose}
      />
      <p className="bg-shade px-3 pb-2 text-[13px] text-soft">
        You keep {section.name} <span className="number">{section.number}</span> until the swap has
        gone through. If it cannot, nothing changes.
      </p>
    </div>
  );
}
