import { useQuery } from "@tanstack/react-query";
import { Star, X } from "lucide-react";
import { useEffect } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../../api/client";
import { sectionQuery } from "../../../api/queries";
import { ProblemNotice } from "../../../ui/Notice";
import { Overlay, OverlayClose, OverlayTitle } from "../../../ui/Overlay";
import { Reading } from "../../../ui/Page";
import { pressable } from "../../../ui/pressable";
import { money, shortDay } from "../../../ui/text";
import { useSearch } from "../../../ui/useSearch";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { FitText } from "./FitText";
import { Outlook } from "./Outlook";
import { rememberSection } from "./recent";
import { SeatMeter } from "./SeatMeter";
import { SectionAction } from "./SectionAction";
import { SectionLine } from "./SectionLine";
import { useMine } from "./useMine";
import { SECTION, useSectionLink } from "./useSectionLink";
import { useStars } from "./useStars";

type Details = Schemas["SectionDetails"];

/** Everything about one section, over whatever page one is on; the address names it. */
export function SectionSheet() {
  const [search, changeSearch] = useSearch();
  const number = search.get(SECTION);
  const close = () => changeSearch((params) => params.delete(SECTION));
  return (
    <Overlay
      open={number !== null}
      onClose={close}
      behind="bg-ink/25 lg:top-[53px] lg:right-[348px]"
      look="inset-y-0 right-0 flex w-[min(740px,100vw)] flex-col border-l border-ink bg-paper lg:top-[53px] lg:right-[348px]"
    >
      {number !== null && <Contents number={number} />}
    </Overlay>
  );
}

function Contents({ number }: { number: string }) {
  const { term } = usePageSubject();
  const { against } = useMine();
  const section = useQuery(sectionQuery(term, number, against));
  useEffect(() => {
    if (section.data) rememberSection(term, number);
  }, [section.data, term, number]);
  const details = section.data;
  const row = details?.row;
  const title = row && `${row.name} ${row.number} · Gremba`;
  useEffect(() => {
    if (!title) return;
    const before = document.title;
    document.title = title;
    return () => {
      document.title = before;
    };
  }, [title]);
  return (
    <>
      <header className="flex items-start gap-x-4 gap-y-1 border-b border-ink px-6 pt-5 pb-3 max-sm:flex-wrap max-sm:justify-end max-sm:px-4 max-sm:pt-3">
        <div className="min-w-0 flex-1 max-sm:order-last max-sm:basis-full">
          <OverlayTitle className="text-[25px] leading-tight">
            {row ? (
              <>
                {row.course} {row.title}
              </>
            ) : (
              `Section ${number.slice(0, 12)}`
            )}
          </OverlayTitle>
          {row && (
            <p className="text-soft">
              <span className="number text-ink">{row.number}</span>, {row.component},{" "}
              {worth(details)}
            </p>
          )}
        </div>
        {row && <StarButton number={row.number} />}
        {row && <SectionAction row={row} choices />}
        <OverlayClose className="p-1 text-soft hover:text-ink" aria-label="Close">
          <X size={20} aria-hidden />
        </OverlayClose>
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto px-6 pt-4 pb-10">
        {section.isPending && <Reading what="the section" />}
        {section.isError && !section.data && <ProblemNotice problem={section.error} />}
        {section.data && <About details={section.data} />}
      </div>
    </>
  );
}

function StarButton({ number }: { number: string }) {
  const { has } = useMine();
  const { stars, toggle, isPending } = useStars();
  if (!has) return null;
  const on = stars.includes(number);
  return (
    <button
      type="button"
      aria-pressed={on}
      className="flex items-center gap-1.5 rounded-sm border border-hair px-2.5 py-1 hover:border-ink"
      {...pressable(isPending, () => toggle(number))}
    >
      <Star size={14} className={on ? "fill-ochre text-ochre" : "text-soft"} aria-hidden />
      {on ? "Starred" : "Star"}
    </button>
  );
}

function worth({ credits_least, credits_most }: Details): string {
  if (credits_most === 0) return "credits are on its lecture";
  if (credits_least === credits_most)
    return `${credits_least} ${credits_least === 1 ? "credit" : "credits"}`;
  return `${credits_least} to ${credits_most} credits, as you choose`;
}

function About({ details }: { details: Details }) {
  const { term } = usePageSubject();
  const { has } = useMine();
  const link = useSectionLink();
  const { row, session } = details;
  return (
    <>
      {row.cancelled && (
        <p className="mb-3 border-l-4 border-l-madder bg-surface px-3 py-2">
          <b className="font-semibold text-madder">Cancelled.</b> It does not take place; the other
          sections of the course are below.
        </p>
      )}
      {row.notes && (
        <p className="mb-4 border-l-4 border-l-ochre bg-surface px-3 py-2">
          <b className="font-semibold">Note.</b> {row.notes}
        </p>
      )}
      {has && <Outlook number={row.number} />}
      <dl className="grid grid-cols-[130px_minmax(0,1fr)] gap-x-4 gap-y-2 max-sm:grid-cols-1 max-sm:gap-y-0.5 [&>dd]:max-sm:mb-2 [&>dt]:text-soft">
        <dt>Meets</dt>
        <dd>
          {row.meetings.length === 0 && "at no set times"}
          {row.meetings.map((meeting) => (
            <p key={meeting.pattern + meeting.first_day}>
              {meeting.pattern}, {shortDay(meeting.first_day)} to {shortDay(meeting.last_day)}
              {meeting.room && `, ${meeting.room}`}
            </p>
          ))}
          <FitText row={row} />
        </dd>
        <dt>Where</dt>
        <dd>
          {row.campus}, {row.delivery}
        </dd>
        <dt>Instructor</dt>
        <dd>{row.instructors.join(", ") || "to be named"}</dd>
        <dt>Runs</dt>
        <dd>
          {session.name}, {shortDay(session.first_day)} to {shortDay(session.last_day)}
          <p className="text-small text-soft">
            Add until {shortDay(session.add_by)}, drop without a trace until{" "}
            {shortDay(session.drop_by)}, with a W until {shortDay(session.withdraw_by)}.
          </p>
        </dd>
        <dt>Seats</dt>
        <dd>
          <div className="w-[180px]">
            <SeatMeter term={term} number={row.number} seats={row.seats} />
          </div>
          {[...details.reserved, details.waitlist].map((text) => (
            <p key={text} className="text-small text-soft">
              {text}
            </p>
          ))}
        </dd>
        <dt>Needs</dt>
        <dd>{details.needs || "nothing beforehand"}</dd>
        {details.restrictions.length > 0 && (
          <>
            <dt>Who may take it</dt>
            <dd>
              {details.restrictions.map((text) => (
                <p key={text}>{text}</p>
              ))}
            </dd>
          </>
        )}
        {details.counts.length > 0 && (
          <>
            <dt>Counts toward</dt>
            <dd>{details.counts.join(", ")}</dd>
          </>
        )}
        {details.gradings.length > 0 && (
          <>
            <dt>Grading</dt>
            <dd>
              {details.gradings.join(", or ")}
              {details.repeat && <p className="text-small text-soft">{details.repeat}</p>}
            </dd>
          </>
        )}
        <dt>Costs beside tuition</dt>
        <dd>
          {details.fees.map(({ label, cents }) => `${label} ${money(cents)}`).join(", ") || "none"}
          {row.no_textbook_cost && ", no textbook cost"}
        </dd>
        {details.cross_listed.length > 0 && (
          <>
            <dt>Shares its seats with</dt>
            <dd>
              {details.cross_listed.map((other) => (
                <Link key={other.number} className="link mr-3" to={link(other.number)}>
                  {other.name} <span className="number">{other.number}</span>
                </Link>
              ))}
            </dd>
          </>
        )}
        {details.description && (
          <>
            <dt>About the course</dt>
            <dd>{details.description}</dd>
          </>
        )}
      </dl>
      <Others
        title="Taken together with one of these"
        hint="The course is taught in parts: one of each kind is taken."
        rows={details.linked_sections}
      />
      <Others
        title={`The bundle “${row.bundle}”`}
        hint="These are taken together or not at all."
        rows={details.bundle}
      />
      <Others
        title="Other sections of this course"
        hint="Against your week; one press takes the place of the one in your cart."
        rows={details.others}
      />
    </>
  );
}

type OthersProps = { title: string; hint: string; rows: Schemas["SectionRow"][] };

function Others({ title, hint, rows }: OthersProps) {
  const { term } = usePageSubject();
  if (rows.length === 0) return null;
  return (
    <section className="mt-6" aria-label={title}>
      <h3 className="text-[19px]">{title}</h3>
      <p className="text-small text-soft">{hint}</p>
      <ul className="mt-1.5 border-t border-ink">
        {rows.map((row) => (
          <li key={row.number} className="border-b border-hair">
            <SectionLine row={row} term={term} />
          </li>
        ))}
      </ul>
    </section>
  );
}
