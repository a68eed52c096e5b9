import { ChevronDown, X } from "lucide-react";
import type { ReactNode } from "react";
import { Dropdown } from "../../../ui/Dropdown";

type Props = {
  label: string;
  /** What is chosen, in a few words; empty where nothing is. */
  chosen: string;
  onClear: () => void;
  children: ReactNode;
};

export const CHIP =
  "flex min-h-[30px] items-center gap-1.5 rounded-sm border bg-surface px-2.5 text-[13px] hover:border-ink";

/** A filter as a chip; pressed, it opens what can be chosen. */
export function FilterChip({ label, chosen, onClear, children }: Props) {
  return (
    <span className="inline-flex">
      <Dropdown
        className={`${CHIP} ${chosen ? "rounded-r-none border-ink" : "border-hair"}`}
        face={
          <>
            {label}
            {chosen ? (
              <b className="max-w-[150px] truncate font-semibold">{chosen}</b>
            ) : (
              <ChevronDown size={13} aria-hidden className="text-soft" />
            )}
          </>
        }
        title={label}
        align="start"
        look="max-h-[min(420px,70dvh)] w-[290px] overflow-auto p-3.5"
      >
        {children}
      </Dropdown>
      {chosen && (
        <button
          type="button"
          className="rounded-r-sm border border-l-0 border-ink bg-surface px-1.5 text-soft hover:bg-shade hover:text-ink"
          aria-label={`Any ${label.toLowerCase()}`}
          onClick={onClear}
        >
          <X size={13} aria-hidden />
        </button>
      )}
    </span>
  );
}

type ToggleProps = { label: string; count?: number; on: boolean; onChange: (on: boolean) => void };

/** A filter that is on or off. */
export function ToggleChip({ label, count, on, onChange }: ToggleProps) {
  return (
    <button
      type="button"
      aria-pressed={on}
      className={`${CHIP} ${on ? "border-ink font-semibold shadow-[inset_0_0_0_1px_var(--color-ink)]" : "border-hair"}`}
      onClick={() => onChange(!on)}
    >
      {label}
      {count !== undefined && <span className="font-normal text-soft">{count}</span>}
    </button>
  );
}
