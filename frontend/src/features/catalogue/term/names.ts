/** The name of a term a year later: the last year in it, plus one. */
export function nameAYearOn(name: string): string {
  const years = [...name.matchAll(/\b(?:19|20)\d\d\b/g)];
  const last = years.at(-1);
  if (!last) return `${name} again`;
  const before = name.slice(0, last.index);
  return `${before}${Number(last[0]) + 1}${name.slice(last.index + 4)}`;
}

/** A name as it stands in addresses: small letters, figures and hyphens. */
export function codeOf(name: string): string {
  return name
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")
    .slice(0, 40)
    .replace(/-$/, "");
}
