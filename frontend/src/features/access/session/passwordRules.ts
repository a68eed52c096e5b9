/** The same that the server asks of a password, said as it is typed; see gremba/core/access/password_rules.py. */

export const LEAST_SIGNS = 12;

/** What is wrong with a password; "" if nothing is. */
export function passwordProblem(password: string, names: string[]): string {
  const signs = [...password];
  if (signs.length < LEAST_SIGNS) return `${LEAST_SIGNS - signs.length} more signs.`;
  const folded = password.toLowerCase();
  if (new Set(folded).size < 5) return "It is too much of the same; use a few words in a row.";
  const isNamed = names.some((name) => name.length >= 3 && folded.includes(name.toLowerCase()));
  return isNamed ? "Your name is in it, which is guessed first; leave it out." : "";
}
