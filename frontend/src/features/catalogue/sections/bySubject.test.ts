import { expect, it } from "vitest";
import type { Schemas } from "../../../api/client";
import { seatsBySubject } from "./bySubject";

type Section = Schemas["OfficeSectionResponse"];

function section(name: string, limit: number, taken: number, more: Partial<Section> = {}): Section {
  return {
    ...({ name, limit, taken, cancelled: false, seats_with: "", carries_credit: true } as Section),
    ...more,
  };
}

it("counts seats once, and only those that carry credits and take place", () => {
  expect(
    seatsBySubject([
      section("SOIL 110", 20, 15),
      section("SOIL 240", 10, 12),
      section("APIC 110", 8, 0),
      section("SOIL 240 lab", 10, 10, { carries_credit: false }),
      section("SOIL 300", 10, 1, { cancelled: true }),
      section("PLNT 110", 20, 15, { seats_with: "30001" }),
    ]),
  ).toEqual([
    { subject: "APIC", taken: 0, left: 8 },
    { subject: "SOIL", taken: 27, left: 5 },
  ]);
});
