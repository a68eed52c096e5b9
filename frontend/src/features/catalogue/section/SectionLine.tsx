import { Star } from "lucide-react";
import { memo } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { shortDay } from "../../../ui/text";
import { FitText } from "./FitText";
import { SeatMeter } from "./SeatMeter";
import { SectionAction } from "./SectionAction";
import { useSectionLink } from "./useSectionLink";
import { WeekStrip } from "./WeekStrip";

type Row = Schemas["SectionRow"];
type Props = { row: Row; term: string; starred?: boolean };

/**
 * A section in a list: what it is, when, how it fits, seats, and the one thing to do with it. While
 * a list scrolls only the lines that come into sight are made.
 */
export const SectionLine = memo(function SectionLine({ row, term, starred = false }: Props) {
  const link = useSectionLink();
  const times = row.meetings.map((meeting) => meeting.pattern);
  const marks = [
    row.topic,
    row.bundle && "taken as a bundle",
    row.consent_needed && "by consent",
    row.restricted && "not for everybody",
    row.no_textbook_cost && "no textbook cost",
  ].filter(Boolean);
  return (
    <div
      className="grid grid-cols-[54px_minmax(0,1fr)_auto] items-center gap-x-2.5 gap-y-0.5 py-1.5 md:grid-cols-[54px_66px_minmax(0,1.25fr)_108px_minmax(0,1.1fr)_118px_66px]"
      data-testid={`section-${row.number}`}
    >
      <Link className="number link min-h-[24px] content-center" to={link(row.number)}>
        {row.number}
        <span className="sr-only">, {row.name}: all about it</span>
      </Link>
      <span className="truncate">
        {capital(row.component)}
        {starred && (
          <Star className="ml-1 inline fill-ochre text-ochre" size={12} aria-label="starred" />
        )}
      </span>
      <div className="min-w-0 max-md:order-4 max-md:col-span-2">
        <p className="truncate" title={times.join(", ")}>
          {times.join(", ") || "any time"}
        </p>
        <p className="truncate text-small text-soft">
          {shortDay(row.first_day)} – {shortDay(row.last_day)}
        </p>
      </div>
      <div className="max-md:hidden">
        <WeekStrip row={row} />
      </div>
      <div className="min-w-0 leading-tight max-md:order-5 max-md:col-span-2">
        <p className="truncate" title={whereAndWho(row)}>
          {whereAndWho(row)}
        </p>
        <p className="truncate">
          <FitText row={row} />
        </p>
      </div>
      <div className="w-[118px] max-md:order-6">
        <SeatMeter term={term} number={row.number} seats={row.seats} cancelled={row.cancelled} />
      </div>
      <div className="text-right max-md:order-3">
        <SectionAction row={row} />
      </div>
      {marks.length > 0 && (
        <p className="order-7 col-span-full text-small text-soft md:col-start-2">
          {marks.join(" · ")}
        </p>
      )}
    </div>
  );
});

function capital(word: string): string {
  return word.charAt(0).toUpperCase() + word.slice(1);
}

function whereAndWho({ meetings, campus, delivery, instructors }: Row): string {
  const rooms = [...new Set(meetings.map(({ room }) => room).filter(Boolean))];
  const where = rooms[0] ?? (delivery === "in person" ? campus : delivery);
  return [where, instructors[0]?.split(" ").at(-1)].filter(Boolean).join(", ");
}
