import { useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { cartQuery, termQuery, weekQuery } from "../../api/queries";
import { useAnnounce } from "../../ui/announce";
import { ProblemNotice } from "../../ui/Notice";
import { Page, Reading } from "../../ui/Page";
import { addDays, campusDay, mondayOf, shortDay } from "../../ui/text";
import { useCartChanges } from "../cart/useCart";
import { hasOwnStop } from "../cart/verdict";
import type { SignedIn } from "../session/useSignedIn";
import type { Entry } from "./layout";
import { SectionList } from "./SectionList";
import { WeekGrid } from "./WeekGrid";
import { WeekSlider, weeksOf } from "./WeekSlider";

type Week = Schemas["WeekView"];
type Cart = Schemas["CartView"];
type Term = Schemas["TermView"];

/** The registered week, what the cart would make of it, and the list of sections. */
export function WeekPage({ session }: { session: SignedIn }) {
  const { term: code = "" } = useParams();
  const [search, setSearch] = useSearchParams();
  const announce = useAnnounce();
  const term = useQuery(termQuery(code));
  const week = useQuery(weekQuery(code));
  const cart = useQuery(cartQuery(code));
  const { add } = useCartChanges(code);
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
  if (!week.data || !term.data || !cart.data) {
    return (
      <Page title="Week">
        <Reading what="your week" />
      </Page>
    );
  }
  const entries = entriesOf(week.data, cart.data);
  const monday = chosenWeek(term.data, search.get("week"), session);
  const dropping = new Set(
    cart.data.changes.filter((c) => c.outcome.kind === "drop").map((c) => c.outcome.number),
  );
  const noTimes = entries.filter((entry) => entry.section.meetings.length === 0);
  return (
    <Page title="Week" aside={`Week of ${shortDay(monday)}`}>
      <WeekSlider
        term={term.data}
        monday={monday}
        onChange={(next) => setSearch({ week: next }, { replace: true })}
      />
      <WeekGrid entries={entries} monday={monday} breaks={breakDays(term.data)} />
      {noTimes.length > 0 && <Tray entries={noTimes} />}
      <h2 className="mt-6 mb-2 text-[20px]">Registered</h2>
      {week.data.registered.length === 0 ? (
        <p className="border-t border-ink py-3 text-soft">
          You are not registered for anything in {term.data.name} yet. What is drawn with a dashed
          line is only in your cart.
        </p>
      ) : (
        <SectionList
          sections={week.data.registered}
          dropping={dropping}
          disabled={add.isPending || session.expired}
          onDrop={(number) =>
            add.mutate(
              { kind: "drop", text: number },
              { onSuccess: () => announce(`A drop of ${number} is in the cart.`) },
            )
          }
        />
      )}
      {add.isError && <ProblemNotice problem={add.error} />}
    </Page>
  );
}

function Tray({ entries }: { entries: Entry[] }) {
  return (
    <div className="mt-3 flex flex-wrap items-center gap-2 text-[13px]">
      <span className="text-soft">No set times</span>
      {entries.map(({ section, part }) => (
        <span
          key={section.number}
          className={`rounded-[2px] px-2 py-0.5 ${part === "registered" ? "border-l-[3px] border-ochre bg-shade" : "border border-dashed border-pine text-pine"}`}
        >
          <b className="font-semibold">{section.name}</b> {section.delivery},{" "}
          {shortDay(section.first_day)} – {shortDay(section.last_day)}
          {part !== "registered" && `, ${part}`}
        </span>
      ))}
    </div>
  );
}

function entriesOf(week: Week, cart: Cart): Entry[] {
  const outcomes = new Map(cart.changes.map((c) => [c.outcome.kind + c.outcome.number, c.outcome]));
  const registered = week.registered.map((section): Entry => {
    const dropped = outcomes.get(`drop${section.number}`)?.result === "accepted";
    return { section, part: dropped ? "dropped" : "registered", clashes: false };
  });
  const planned = week.in_cart.flatMap((section): Entry[] => {
    const outcome = outcomes.get(`add${section.number}`);
    if (!outcome) return [];
    const clashes = outcome.findings.some((finding) => finding.code === "time.conflict");
    const refused = hasOwnStop(outcome) ? "stopped" : "planned";
    return [{ section, part: outcome.result === "accepted" ? "added" : refused, clashes }];
  });
  return [...registered, ...planned];
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
