import { lazy, Suspense, useState } from "react";
import { useSearchParams } from "react-router";
import { SECTION } from "./useSectionLink";

const SectionSheet = lazy(async () => ({
  default: (await import("./SectionSheet")).SectionSheet,
}));

/** The sheet of the section that the address names; its script comes when one is first opened. */
export function SheetOnDemand() {
  const isOpen = useSearchParams()[0].has(SECTION);
  const [wasOpen, setWasOpen] = useState(isOpen);
  if (isOpen && !wasOpen) setWasOpen(true);
  if (!wasOpen) return null;
  return (
    <Suspense>
      <SectionSheet />
    </Suspense>
  );
}
