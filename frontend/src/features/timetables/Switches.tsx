import { Dropdown } from "../../ui/Dropdown";
import { Pick } from "./Pick";
import type { Question } from "./question";
import type { Asking } from "./useQuestion";

const SEATS: [Question["seats"], string][] = [
  ["left", "only with a seat left"],
  ["waitlist", "also with room to wait"],
  ["all", "full ones as well"],
];

/** Which sections are looked at, by their seats and by the ways between them. */
export function Switches({ asking }: { asking: Asking }) {
  const { seats, no_tight_ways } = asking.question;
  const said = SEATS.find(([value]) => value === seats)?.[1];
  return (
    <Dropdown
      className="min-h-[26px] text-[13px] hover:text-ink hover:underline"
      face={
        <>
          {said}
          {no_tight_ways && ", no tight ways"}
        </>
      }
      title="Which sections are looked at"
      align="end"
      look="w-[min(300px,calc(100vw-24px))] space-y-3 p-3.5 text-[13px]"
    >
      <Pick
        legend="Sections"
        single
        values={SEATS}
        chosen={[seats]}
        onChange={([value]) =>
          asking.ask((question) => ({ ...question, seats: value as Question["seats"] }))
        }
      />
      <Pick
        legend="Between campuses"
        single
        values={[
          ["any", "any way"],
          ["easy", "no tight ways"],
        ]}
        chosen={[no_tight_ways ? "easy" : "any"]}
        onChange={([value]) =>
          asking.ask((question) => ({ ...question, no_tight_ways: value === "easy" }))
        }
      />
    </Dropdown>
  );
}
