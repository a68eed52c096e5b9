import { describe, expect, it } from "vitest";
import type { Schemas } from "../../../api/client";
import { changeOf, draftOf, matching } from "./sections";

const SECTION: Schemas["OfficeSectionResponse"] = {
  number: "30412",
  name: "SOIL 240",
  title: "Peat",
  component: "lecture",
  carries_credit: true,
  session: "full term",
  session_first: "2027-08-23",
  session_last: "2027-12-10",
  times: "MW 09:30–10:45",
  rooms: ["Hillfoot 12"],
  teachers: [{ username: "petra", full_name: "Petra Lunn" }],
  limit: 24,
  taken: 20,
  waiting: 0,
  seats_with: "",
  waitlist_limit: 8,
  waitlist_way: "offer",
  consent_needed: false,
  cancelled: false,
  topic: "",
  notes: "Bring boots.",
  meetings: [
    {
      weekdays: "MW",
      starts: 570,
      ends: 645,
      first_day: "2027-08-23",
      last_day: "2027-12-10",
      campus: "hillfoot",
      room: "Hillfoot 12",
    },
  ],
  reserved: [{ kind: "cohort", value: "first year", seats: 6, release_on: null }],
};
const OTHER = { ...SECTION, number: "30413", name: "SOIL 310", limit: 30 };

describe("a change", () => {
  it("names only what is another thing", () => {
    const draft = draftOf([SECTION]);
    expect(changeOf([SECTION], draft)).toBeNull();
    expect(changeOf([SECTION], { ...draft, limit: "26", takesPlace: "no" })).toEqual({
      numbers: ["30412"],
      limit: 26,
      cancelled: true,
    });
  });
  it("of many is by so many, and of the rest what stays stays", () => {
    const draft = draftOf([SECTION, OTHER]);
    expect(changeOf([SECTION, OTHER], { ...draft, limit: "+2" })).toEqual({
      numbers: ["30412", "30413"],
      limit_by: 2,
    });
    expect(changeOf([SECTION, OTHER], draft)).toBeNull();
  });
  it("of a meeting says which one it is", () => {
    const draft = draftOf([SECTION]);
    const [meeting] = draft.meetings;
    if (!meeting) throw new Error("the section has no meeting");
    const moved = { ...draft, meetings: [{ ...meeting, weekdays: "TR" }] };
    expect(changeOf([SECTION], moved)?.meetings).toEqual([
      { ...SECTION.meetings[0], weekdays: "TR", place: 1 },
    ]);
    expect(changeOf([SECTION], { ...draft, meetings: [{ ...meeting, starts: null }] })).toBeNull();
  });
  it("of reserved seats names those that are others", () => {
    const draft = draftOf([SECTION]);
    const bees = { kind: "program" as const, value: " Bees ", seats: 2, release_on: null };
    const more = { ...draft, reserved: [...draft.reserved, { ...bees, isNew: true }] };
    expect(changeOf([SECTION], more)?.reserved).toEqual([{ ...bees, value: "Bees" }]);
    const none = { ...draft, reserved: [...draft.reserved, { ...bees, value: " " }] };
    expect(changeOf([SECTION], none)).toBeNull();
  });
  it("that cannot be read is none", () => {
    expect(changeOf([SECTION], { ...draftOf([SECTION]), limit: "many" })).toBeNull();
  });
  it("of who teaches says whom they follow", () => {
    expect(changeOf([SECTION], { ...draftOf([SECTION]), teacher: "idony" })).toEqual({
      numbers: ["30412"],
      new_teacher: "idony",
      old_teacher: "petra",
    });
  });
});

describe("looking for sections", () => {
  it("needs every word, wherever it stands", () => {
    expect(matching([SECTION, OTHER], "soil lunn")).toHaveLength(2);
    expect(matching([SECTION, OTHER], "310 hillfoot")).toEqual([OTHER]);
    expect(matching([SECTION], "ceramics")).toEqual([]);
  });
});
