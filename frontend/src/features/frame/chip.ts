/** How what stands in the top bar is framed. */
export const CHIP = "rounded-sm border border-hair bg-surface px-2.5 py-1 whitespace-nowrap";
