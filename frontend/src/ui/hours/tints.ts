/** Tints by subject, in the order in which the subjects first come up. */
export const TINTS = [
  { fill: "#e2e6ee", edge: "#3c5577" },
  { fill: "#f1e3c6", edge: "#835508" },
  { fill: "#eedfda", edge: "#8c4a3c" },
  { fill: "#e6e0ee", edge: "#5e4a7d" },
  { fill: "#dde8e1", edge: "#1f5b4e" },
  { fill: "#e9e6cf", edge: "#66631c" },
] as const;

export type Tint = (typeof TINTS)[number];

export function tintsOf(sections: { course: string }[]): Map<string, Tint> {
  const tints = new Map<string, Tint>();
  for (const { course } of sections) {
    const subject = course.split(" ")[0] ?? course;
    const tint = TINTS[tints.size % TINTS.length];
    if (!tints.has(subject) && tint) tints.set(subject, tint);
  }
  return tints;
}
