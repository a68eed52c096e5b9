import { expect, test } from "vitest";
import { TINTS } from "../../ui/hours/tints";
import { tintsOf } from "./tints";

test("beyond all tints, subjects share that do not stand side by side", () => {
  const weeks = ["KILN SOIL BAKE EXTRA", "KILN APIC EXTRA", "LOOM EXTRA", "WOOD BAKE EXTRA"].map(
    (week) => new Set(week.split(" ")),
  );
  const tints = tintsOf("KILN SOIL BAKE APIC WOOD LOOM MILL EXTRA".split(" "), weeks);
  expect(tints.size).toBe(8);
  expect(tints.get("EXTRA")).toBe(TINTS[0]);
  for (const week of weeks) {
    expect(new Set([...week].map((subject) => tints.get(subject))).size).toBe(week.size);
  }
});
