import { BarPicture } from "../../../ui/pictures/BarPicture";
import type { SubjectSeats } from "./bySubject";

const PARTS = [
  { key: "taken", name: "taken", fill: "var(--color-pine)" },
  { key: "left", name: "left", fill: "var(--color-hair)" },
];

/** Seats taken and left by subject. */
export function SubjectPicture({ subjects }: { subjects: SubjectSeats[] }) {
  return (
    <BarPicture
      rows={subjects.map(({ subject, taken, left }) => ({ name: subject, taken, left }))}
      parts={PARTS}
      namesAll
      table={{
        headings: ["Subject", "Taken", "Left"],
        rows: subjects.map(({ subject, taken, left }) => [subject, taken, left]),
      }}
    />
  );
}
