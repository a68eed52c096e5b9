import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import { useLocation } from "react-router";
import type { Schemas } from "../../../api/client";
import { termQuery, weekQuery } from "../../../api/queries";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { Page, Reading } from "../../../ui/Page";
import { addDays, campusDay, mondayOf, shortDay } from "../../../ui/text";
import { useSearch } from "../../../ui/useSearch";
import type { SignedIn } from "../../access/session/useSignedIn";
import { usePageSubject } from "../../students/subject/usePageSubject";
import { useCartChanges } from "../changes/useCartChanges";
import type { Entry } from "./layout";
import { SectionList } from "./SectionList";
import { WeekGrid } from "./WeekGrid";
import { WeekSlider, weeksOf } from "./WeekSlider";

type Term = Schemas["TermResponse"];

const WeekDays = lazy(async () => ({ default: (await import("./WeekDays")).WeekDays }));
const KeepSheet = lazy(async () => ({ default: (await import("./KeepSheet")).KeepSheet }));

/** The registered week, what the cart would make of it, and the list of sections. */
export function WeekPage({ session }: { session: SignedIn }) {
  const subject = usePageSubject();
  const code = subject.term;
  const { pathname } = useLocation();
  const [search, changeSearch] = useSearch();
  const announce = useAnnounce();
  const keeping = search.has("keep");
  const keep = (open: boolean) =>
    changeSearch(
      (params) => {
        if (open) params.set("keep", "");
        else params.delete("keep");
      },
      { replace: !open },
    );
  const term = useQuery(termQuery(code));
  const week = useQuery(weekQuery(subject));
  const { put, adjust } = useCartChanges(subject);
  const problem = week.error ?? term.error;
  if (problem && !(week.data && term.data)) {
    return (
      <Page title="Week">
        <div className="mt-4">
          <ProblemNotice problem={problem} />
        </div>
      </Page>
    );
  }
  if (!week.data || !term.data) {
    return (
      <Page title="Week">
        <Reading what="your week" />
      </Page>
    );
  }
  const { entries } = week.data;
  const registered = entries.filter((entry) => entry.registered);
  const monday = chosenWeek(term.data, search.get("week"), session);
  const today = campusDay(new Date(session.now), session.zone);
  const breaks = breakDays(term.data);
  const noTimes = entries.filter((entry) => entry.section.meetings.length === 0);
  return (
    <Page
      title="Week"
      tab={pathname.endsWith("/cart") ? "Cart" : "Week"}
      aside={
        <span className="flex items-baseline gap-4">
          Week of {shortDay(monday)}
          <Button onClick={() => keep(true)}>Keep or show</Button>
        </span>
      }
    >
      {keeping && (
        <Suspense>
          <KeepSheet open onClose={() => keep(false)} session={session} />
        </Suspense>
      )}
      <WeekSlider
        term={term.data}
        monday={monday}
        onChange={(next) => changeSearch((params) => params.set("week", next), { replace: true })}
      />
      <WeekGrid entries={entries} monday={monday} breaks={breaks} className="max-sm:hidden" />
      <Suspense>
        <WeekDays entries={entries} monday={monday} breaks={breaks} today={today} />
      </Suspense>
      {noTimes.length > 0 && <Tray entries={noTimes} />}
      <h2 className="mt-6 mb-2 text-[20px]">Registered</h2>
      {registered.length === 0 ? (
        <p className="border-t border-ink py-3 text-soft">
          You are not registered for anything in {term.data.name} yet. What is drawn with a dashed
          line is only in your cart.
        </p>
      ) : (
        <SectionList
          entries={registered}
          today={today}
          disabled={put.isPending || adjust.isPending || session.expired}
          onPut={(changes) =>
            put.mutate(changes, {
              onSuccess: ({ reports }) => announce(reports.map((r) => r.text).join(" ")),
            })
          }
          onAdjust={(number, chosen) =>
            adjust.mutate(
              { number, chosen },
              { onSuccess: () => announce(`Adjusting ${number} is in the cart.`) },
            )
          }
        />
      )}
      {put.data?.reports
        .filter((report) => !report.taken)
        .map((report) => (
          <Notice key={report.piece + report.text} tone="warning">
            <span className="number">{report.piece}</span> {report.text}
          </Notice>
        ))}
      {(put.error ?? adjust.error) && (
        <ProblemNotice problem={(put.error ?? adjust.error) as Error} />
      )}
    </Page>
  );
}

function Tray({ entries }: { entries: Entry[] }) {
  return (
    <div className="mt-3 flex flex-wrap items-center gap-2 text-[13px]">
      <span className="text-soft">No set times</span>
      {entries.map(({ section, state }) => (
        <span
          key={section.number}
          className={`rounded-[2px] px-2 py-0.5 ${state === "registered" ? "border-l-[3px] border-ochre bg-shade" : "border border-dashed border-pine text-pine"}`}
        >
          <b className="font-semibold">{section.name}</b> {section.delivery},{" "}
          {shortDay(section.first_day)} – {shortDay(section.last_day)}
          {state !== "registered" && `, ${state}`}
        </span>
      ))}
    </div>
  );
}

function chosenWeek(term: Term, wanted: string | null, session: SignedIn): string {
  const weeks = weeksOf(term);
  if (wanted && weeks.includes(wanted)) return wanted;
  const current = mondayOf(campusDay(new Date(session.now), session.zone));
  return weeks.includes(current) ? current : (weeks[0] ?? mondayOf(term.first_day));
}

function breakDays(term: Term): Map<string, string> {
  const days = new Map<string, string>();
  for (const { name, first_day, last_day } of term.breaks) {
    for (let day = first_day; day <= last_day; day = addDays(day, 1)) days.set(day, name);
  }
  return days;
}
