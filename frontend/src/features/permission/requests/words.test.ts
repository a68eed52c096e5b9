import { expect, test } from "vitest";
import { eventWords, fileTrouble, lifted, type Request, sizeWords, stateOf } from "./words";

const ZONE = "America/New_York";

function request(values: Partial<Request>): Request {
  return {
    id: 1,
    version: 1,
    number: "30607",
    name: "CERM 105",
    title: "Clay",
    state: "open",
    waives: ["seats"],
    who: "Petra Lunn",
    asked_at: "2027-04-19T08:12:00-04:00",
    since: "2027-04-19T08:12:00-04:00",
    good_until: null,
    is_good: false,
    used_at: null,
    confirmation: null,
    goes_through: false,
    words: "Please.",
    otherwise: [],
    events: [],
    files: [],
    ...values,
  };
}

test("what has become of it says who has it, since when and until when", () => {
  const words = (values: Partial<Request>) => stateOf(request(values), ZONE).word;
  expect(words({})).toBe("With Petra Lunn since 19 Apr 08:12");
  expect(words({ state: "asked back" })).toBe("A question to you, since 19 Apr 08:12");
  const granted = { state: "granted", good_until: "2027-05-03T08:12:00-04:00" } as const;
  expect(words({ ...granted, is_good: true })).toBe("Yes, good until 3 May 08:12");
  expect(words(granted)).toBe("Yes, but its time is over");
  expect(words({ ...granted, used_at: "2027-04-20T09:00:00-04:00" })).toBe(
    "Yes, used on 20 Apr 09:00",
  );
  expect(stateOf(request({ state: "refused" }), ZONE).tone).toBe("madder");
});

test("what is lifted is listed in words", () => {
  expect(lifted(["seats", "requisite"])).toBe("a seat beyond the limit and what it requires");
});

test("who stands in for somebody is named with them", () => {
  const event = { what: "granted", at: "", by: "Ada", stands_for: "Petra", words: "" } as const;
  expect(eventWords(event)).toBe("Ada, for Petra, said yes");
});

test("files are told what is the matter before they are sent", () => {
  expect(fileTrouble({ name: "a.PDF", size: 10 })).toBe("");
  expect(fileTrouble({ name: "a.docx", size: 10 })).toContain("no PDF");
  expect(fileTrouble({ name: "a.pdf", size: 3_000_000 })).toContain("3.0 MB");
  expect([sizeWords(300), sizeWords(120_400), sizeWords(1_400_000)]).toEqual([
    "1 KB",
    "120 KB",
    "1.4 MB",
  ]);
});
