/** Picking a section in Find: what for stands in the address. */

/** A section to swap another one for, or the next choice of a change in the cart. */
export type Pick = { is: "swap"; number: string } | { is: "next"; change: number };

export const PICK = "pick";

export function pickParam(pick: Pick): string {
  return `${PICK}=${pick.is === "swap" ? `swap-${pick.number}` : `next-${pick.change}`}`;
}

/** What is being picked for; null where nothing is, or the address says nothing that could be. */
export function pickOf(params: URLSearchParams): Pick | null {
  const said = /^(swap-\d{5}|next-\d{1,9})$/.exec(params.get(PICK) ?? "")?.[1];
  if (!said) return null;
  const [is, of = ""] = said.split("-");
  return is === "swap" ? { is: "swap", number: of } : { is: "next", change: Number(of) };
}
