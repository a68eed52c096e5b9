import type { Schemas } from "../../api/client";
import { Dropdown } from "../../ui/Dropdown";
import { counted } from "../../ui/text";
import { CoursePicker } from "./CoursePicker";
import type { Want } from "./question";
import type { Asking } from "./useQuestion";
import { WantEditor } from "./WantEditor";

type Answered = Schemas["WantResponse"];
type Props = { asking: Asking; answer: Schemas["TimetablesResponse"] | undefined };

/** What is wanted, with what became of it; pressed, a want is narrowed or taken out. */
export function Wants({ asking, answer }: Props) {
  const { wants } = asking.question;
  return (
    <section aria-labelledby="wanted">
      <h2 id="wanted" className="text-[18px]">
        Wanted
      </h2>
      <ul className="border-t border-hair">
        {wants.map((want, place) => (
          <li key={`${want.tag}${want.courses.join()}`} className="border-b border-hair">
            <WantLine want={want} place={place} answered={answer?.wants[place]} asking={asking} />
          </li>
        ))}
      </ul>
      <p className="pt-1.5">
        <CoursePicker face="Add a course" asking={asking} />
      </p>
    </section>
  );
}

type LineProps = { want: Want; place: number; answered: Answered | undefined; asking: Asking };

function WantLine({ want, place, answered, asking }: LineProps) {
  const name = nameOf(want);
  const title = answered?.courses.length === 1 ? answered.courses[0]?.title : "";
  const told = answered && toldOf(answered);
  const narrowed = narrowedWords(want);
  return (
    <Dropdown
      className="group grid w-full grid-cols-[minmax(0,1fr)_auto] gap-x-2 py-1.5 text-left"
      face={
        <>
          <span className="min-w-0 group-hover:underline">
            <b className="font-semibold">{name}</b> {title}
          </span>
          <span className="text-small text-soft">{told?.aside}</span>
          {told?.text && (
            <span className={`col-span-2 text-small ${told.isBad ? "text-madder" : "text-soft"}`}>
              {told.text}
            </span>
          )}
          {narrowed && (
            <span className="col-span-2 justify-self-start border-b border-dotted border-ink text-small">
              {narrowed}
            </span>
          )}
        </>
      }
      title={name}
      align="start"
      look="max-h-[min(520px,76dvh)] w-[min(330px,calc(100vw-24px))] overflow-auto p-3.5"
    >
      <WantEditor want={want} place={place} answered={answered} asking={asking} />
    </Dropdown>
  );
}

/** `SOIL 240`, `One of CERM 105 and TXTL 110`, `Two that count toward Craft`. */
export function nameOf({ courses, tag, count }: Want): string {
  const many = ["No", "One", "Two", "Three", "Four"][count] ?? String(count);
  if (tag) return `${many} that ${count === 1 ? "counts" : "count"} toward ${tag}`;
  if (courses.length > 1)
    return `${many} of ${courses.slice(0, -1).join(", ")} or ${courses.at(-1)}`;
  return courses[0] ?? "";
}

const SAID: Record<Exclude<Answered["state"], "sought">, string> = {
  held: "you are registered for it",
  twice: "it stands further up already",
  "not offered": "not offered this term",
  unknown: "there is no such course",
  stopped: "no section is open to you",
};

/** Fewer seats than these may be gone by the time one registers. */
const FEW = 6;

function toldOf(answered: Answered): { aside: string; text: string; isBad: boolean } {
  const { state, fitting, in_all, is_needed, is_in, hangs_on, seats, stopped, courses } = answered;
  if (state !== "sought") return { aside: "", text: SAID[state], isBad: state !== "held" };
  const aside = is_needed ? sectionsWords(fitting, in_all, courses.length) : "if it fits";
  if (!is_needed && !is_in) return { aside, text: "does not fit with the rest", isBad: true };
  if (hangs_on) return { aside, text: hangs_on, isBad: (seats ?? FEW) < FEW };
  const not = stopped.length ? `${counted(stopped.length, "section", "sections")} not for you` : "";
  return { aside, text: not, isBad: false };
}

function sectionsWords(fitting: number, in_all: number, courses: number): string {
  if (courses > 1) return counted(courses, "course", "courses");
  if (fitting === in_all) return counted(fitting, "section", "sections");
  return `${fitting} of ${in_all}`;
}

function narrowedWords(want: Want): string {
  const parts = [
    want.without.length ? `not ${want.without.join(", ")}` : "",
    want.only.length ? `only ${want.only.join(", ")}` : "",
    want.instructors.length ? `with ${want.instructors.join(" or ")}` : "",
    want.campuses.map(capital).join(" or "),
    want.deliveries.join(" or "),
    want.sessions.length ? `in the ${want.sessions.join(" or ")}` : "",
  ];
  return parts.filter(Boolean).join(", ");
}

function capital(word: string): string {
  return word.charAt(0).toUpperCase() + word.slice(1);
}
