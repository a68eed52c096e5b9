import type { ReactNode } from "react";

export const INPUT =
  "block w-full min-w-0 rounded-sm border border-ink bg-white px-2 py-1.5 text-[14px]";

/** A label with what it labels, and what is the matter with it. */
export function Field({ id, label, children }: { id: string; label: string; children: ReactNode }) {
  return (
    <div className="min-w-0">
      <label htmlFor={id} className="mb-1 block text-[13px]">
        {label}
      </label>
      {children}
    </div>
  );
}
