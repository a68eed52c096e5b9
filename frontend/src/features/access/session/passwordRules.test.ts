import { expect, test } from "vitest";
import { passwordProblem } from "./passwordRules";

test("a password is long, not of one sign, and without one's name", () => {
  const names = ["wren", "Wren", "Halloway"];
  const problem = (password: string) => passwordProblem(password, names);
  expect(problem("short")).toBe("7 more signs.");
  expect(problem("aaaaaaaaaaaaaaa")).toContain("too much of the same");
  expect(problem("my name is HALLOWAY")).toContain("Your name is in it");
  expect(problem("seven geese in the reeds")).toBe("");
});
