/** Sections looked at lately, in this browser: like its history, and gone with it. */
const MOST = 20;

const key = (term: string) => `gremba-recent-${term}`;

export function recentSections(term: string): string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(key(term)) ?? "[]");
    return Array.isArray(kept) ? kept.filter((n) => /^\d{5}$/.test(String(n))).map(String) : [];
  } catch {
    return [];
  }
}

export function rememberSection(term: string, number: string): void {
  const kept = [number, ...recentSections(term).filter((other) => other !== number)];
  try {
    localStorage.setItem(key(term), JSON.stringify(kept.slice(0, MOST)));
  } catch {
    // Where a browser keeps nothing, there is nothing to find again.
  }
}
