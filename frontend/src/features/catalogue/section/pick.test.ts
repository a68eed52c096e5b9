import { expect, test } from "vitest";
import { pickOf, pickParam } from "./pick";

test("what is picked for goes into the address and comes back", () => {
  for (const pick of [
    { is: "swap", number: "30593" } as const,
    { is: "next", change: 12 } as const,
  ])
    expect(pickOf(new URLSearchParams(pickParam(pick)))).toEqual(pick);
});

test("an address that says something else picks nothing", () => {
  for (const said of ["", "pick=", "pick=swap-1", "pick=next-x", "pick=drop-30593", "pick=next--1"])
    expect(pickOf(new URLSearchParams(said))).toBeNull();
});
