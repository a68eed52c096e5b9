import type { Schemas } from "../../api/client";
import { counted, listed } from "../../ui/text";
import type { Timetable } from "./words";

type Props = { answer: Schemas["TimetablesResponse"]; timetable: Timetable };

const TOLD = 3;

/** What the timetables hang on, and what of the one on show has others that would do. */
export function KeySections({ answer, timetable }: Props) {
  const { key_sections, number, is_beyond } = answer;
  const all = key_sections.filter(({ without }) => without === 0);
  const most = key_sections.filter(({ without }) => without > 0);
  const scarce = [...all].sort((a, b) => a.seats - b.seats);
  const first = scarce[0];
  const others = timetable.parts.filter(({ others }) => others > 0);
  const alike = timetable.parts.filter(({ alike }) => alike.length > 0);
  const many = is_beyond
    ? "All of them"
    : number === 1
      ? "It"
      : `All ${number.toLocaleString("en-US")}`;
  return (
    <div className="mt-2 border-y border-hair py-2 text-[13px]">
      <h3 className="inline font-sans text-[13px] font-normal text-soft">What it hangs on:</h3>{" "}
      {first ? (
        <>
          <b className="font-semibold">
            {many} {number === 1 ? "needs" : "need"}{" "}
            {listed(
              scarce.slice(0, TOLD).map(({ section }) => `${section.name} ${section.number}`),
            )}
          </b>
          , {counted(first.seats, "seat", "seats")} left
          {scarce.length > 1 ? ` in ${first.section.name}` : ""}: it goes first.{" "}
        </>
      ) : (
        "on no single section. "
      )}
      {most.slice(0, 2).map(({ section, without }) => (
        <span key={section.number}>
          Without {section.name} {section.number} only {without} would be left.{" "}
        </span>
      ))}
      {others.length > 0 && (
        <>
          {listed(
            others.map(
              ({ course, others }) => `${course} has ${counted(others, "other", "others")}`,
            ),
          )}{" "}
          that would do here.{" "}
        </>
      )}
      {alike.length > 0 && (
        <>
          At the same hours:{" "}
          {listed(alike.map(({ course, alike }) => `${alike.length + 1} of ${course}`))}.
        </>
      )}
    </div>
  );
}
