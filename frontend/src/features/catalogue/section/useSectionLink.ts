/** The address of a section's sheet: over the page one is on. */
import { useLocation, useSearchParams } from "react-router";

/** The part of an address that opens a section's sheet. */
export const SECTION = "section";

export function useSectionLink(): (number: string) => string {
  const { pathname } = useLocation();
  const [search] = useSearchParams();
  return (number) => {
    const next = new URLSearchParams(search);
    next.set(SECTION, number);
    return `${pathname}?${next}`;
  };
}
