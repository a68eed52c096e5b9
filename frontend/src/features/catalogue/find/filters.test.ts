import { describe, expect, test } from "vitest";
import { FILTERS } from "../../../api/filters";
import { type Counts, chosenText, isShown } from "./chosen";
import { type Filters, searchOf } from "./filters";

/** Filters as an address holds them. */
function at(address: string): Filters {
  const params = new URLSearchParams(address);
  return {
    params,
    many: (name) => params.getAll(name),
    one: (name) => params.get(name) ?? "",
    yes: (name) => params.get(name) === "true",
    active: 0,
    strange: [],
    set: () => {},
    clear: () => {},
  };
}

describe("what the server is asked for", () => {
  test("is what stands in the address, in its form", () => {
    const address =
      "words=soil&subject=SOIL&subject=APIC&time_from=540&fits=true&seats=open&sort=time";
    expect(searchOf(at(address), "30001,30002", null)).toEqual({
      against: "30001,30002",
      words: "soil",
      subject: ["SOIL", "APIC"],
      time_from: 540,
      fits: true,
      seats: "open",
      sort: "time",
    });
  });
  test("leaves out what is empty, what is no time, and what no filter is", () => {
    const address =
      "words=&subject=&time_from=9:00&time_to=1441&fits=yes&no_textbook_cost=false&moon=full";
    expect(searchOf(at(address), "", null)).toEqual({ against: "", subject: [""] });
  });
  test("names the sections of a list, even if there are none", () => {
    expect(searchOf(at("list=starred"), "", [])).toEqual({ against: "", among: "" });
    expect(searchOf(at(""), "", ["30001", "30412"]).among).toBe("30001,30412");
  });
  test("knows every filter of the table", () => {
    for (const row of FILTERS) {
      if (row.takes === "numbers") continue;
      const value = { yes: "true", minute: "600" }[row.takes as string] ?? "x";
      expect(searchOf(at(`${row.name}=${value}`), "", null)).toHaveProperty(row.name);
    }
  });
});

describe("a chip", () => {
  const counts = [
    {
      filter: "session",
      name: "part of the term",
      values: [{ value: "first", name: "first half, to 15 October", sections: 3 }],
    },
  ] as Counts;
  const text = (name: string, address: string) => {
    const row = FILTERS.filter(isShown).find((one) => one.name === name);
    return row ? chosenText(row, at(address), counts) : "no such filter";
  };
  test("shows days as letters and subjects as codes", () => {
    expect(text("day", "day=M&day=W&day=none")).toBe("M W no times");
    expect(text("subject", "subject=SOIL&subject=APIC")).toBe("SOIL, APIC");
  });
  test("shows a value by its name up to a comma, or as it stands before there is one", () => {
    expect(text("session", "session=first")).toBe("first half");
    expect(text("session", "session=second")).toBe("second");
  });
  test("shows times, seats and what is typed", () => {
    expect(text("time_from", "time_from=545")).toBe("from 09:05");
    expect(text("time_to", "")).toBe("");
    expect(text("seats", "seats=waitlist")).toBe("left or waitlist");
    expect(text("number", "number=14%3F")).toBe("14?");
  });
  test("is empty where nothing is chosen", () => {
    for (const row of FILTERS.filter(isShown)) expect(text(row.name, "")).toBe("");
  });
});
