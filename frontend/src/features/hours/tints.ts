/** In the order in which the subjects first come up. */
export const TINTS = [
  { fill: "#e2e6ee", edge: "#3c5577" },
  { fill: "#f1e3c6", edge: "#835508" },
  { fill: "#eedfda", edge: "#8c4a3c" },
  { fill: "#e6e0ee", edge: "#5e4a7d" },
  { fill: "#dde8e1", edge: "#1f5b4e" },
  { fill: "#e9e6cf", edge: "#66631c" },
] as const;

export type Tint = (typeof TINTS)[number];

/**
 * A tint for each subject, those in most weeks first. Once all are taken, a further subject shares
 * the tint of those it stands beside least often.
 */
export function tintsOf(
  sections: { course: string }[],
  beside: { course: string }[][] = [],
): Map<string, Tint> {
  const weeks = beside.map((week) => new Set(week.map(subjectOf)));
  const shared: string[][] = TINTS.map(() => []);
  const tints = new Map<string, Tint>();
  const often = (subject: string) => weeks.filter((week) => week.has(subject)).length;
  const subjects = [...new Set(sections.map(subjectOf))].sort((a, b) => often(b) - often(a));
  for (const subject of subjects) {
    const [chosen] = TINTS.map((tint, place) => {
      const others = shared[place] ?? [];
      const meets = weeks.filter(
        (week) => week.has(subject) && others.some((one) => week.has(one)),
      );
      return { tint, others, meets: meets.length };
    }).sort((a, b) => a.meets - b.meets || a.others.length - b.others.length);
    if (!chosen) continue;
    chosen.others.push(subject);
    tints.set(subject, chosen.tint);
  }
  return tints;
}

function subjectOf({ course }: { course: string }): string {
  return course.split(" ")[0] ?? course;
}
