import { describe, expect, it } from "vitest";
import { lastLine } from "./lines";

describe("the last line of an answer that is still coming", () => {
  it("is the last that has come whole", () => {
    expect(lastLine("")).toBeNull();
    expect(lastLine('{"doing":"rea')).toBeNull();
    expect(lastLine('{"doing":"a","share":0.1}\n')).toMatchObject({ doing: "a" });
    expect(lastLine('{"doing":"a"}\n{"doing":"b"}\n{"doi')).toMatchObject({ doing: "b" });
  });
  it("is none where it is no JSON", () => {
    expect(lastLine("<html>\n")).toBeNull();
  });
});
