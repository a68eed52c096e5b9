import { describe, expect, it } from "vitest";
import { codeOf, nameAYearOn } from "./names";

describe("the name of a term a year later", () => {
  it("counts its last year on", () => {
    expect(nameAYearOn("Thaw 2027")).toBe("Thaw 2028");
    expect(nameAYearOn("2027/2028 Frost")).toBe("2027/2029 Frost");
    expect(nameAYearOn("Autumn")).toBe("Autumn again");
  });
});

describe("a name in addresses", () => {
  it("has small letters, figures and hyphens only", () => {
    expect(codeOf("High Summer 2027")).toBe("high-summer-2027");
    expect(codeOf("  Été — 2027! ")).toBe("ete-2027");
    expect(codeOf("雪")).toBe("");
    expect(codeOf("x".repeat(60))).toHaveLength(40);
  });
});
