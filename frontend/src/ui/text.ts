/** How times, dates, money and counts are written on the screen. The one place for it. */

export function money(cents: number): string {
  return (cents / 100).toLocaleString("en-US", { minimumFractionDigits: 2 });
}

export function counted(number: number, one: string, many: string): string {
  return `${number.toLocaleString("en-US")} ${number === 1 ? one : many}`;
}

/** `a`, `a and b`, `a, b and c` */
export function listed(items: string[]): string {
  if (items.length < 2) return items.join("");
  return `${items.slice(0, -1).join(", ")} and ${items.at(-1)}`;
}

export function credits(number: number): string {
  return counted(number, "credit", "credits");
}

function parts(when: Date, zone: string, options: Intl.DateTimeFormatOptions) {
  const found = new Intl.DateTimeFormat("en-GB", { timeZone: zone, ...options }).formatToParts(
    when,
  );
  return (type: string) => found.find((part) => part.type === type)?.value ?? "";
}

/** `Mon 19 Apr 08:52` */
export function shortMoment(when: Date, zone: string): string {
  const part = parts(when, zone, {
    weekday: "short",
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
  });
  return `${part("weekday")} ${part("day")} ${part("month").slice(0, 3)} ${part("hour")}:${part("minute")}`;
}

/** `3 May 17:00` */
export function dayAndTime(when: Date, zone: string): string {
  return shortMoment(when, zone).split(" ").slice(1).join(" ");
}

/** `Due 13 Aug`, or that it is due at once. */
export function dueName({ at, over }: { at: string | null; over: boolean }, zone: string): string {
  if (over || !at) return "Due at once";
  const [day, month] = dayAndTime(new Date(at), zone).split(" ");
  return `Due ${day} ${month}`;
}

/** `00:19:42`, or `3 days` when it is further off. */
export function countdown(milliseconds: number): string {
  const seconds = Math.max(0, Math.ceil(milliseconds / 1000));
  if (seconds >= 172_800) return counted(Math.floor(seconds / 86_400), "day", "days");
  const two = (n: number) => String(n).padStart(2, "0");
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
}

const MONTHS = "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split(" ");
const DAYS = "Mon Tue Wed Thu Fri Sat Sun".split(" ");

/** Dates without a time travel as `2027-08-23`; reckoned in UTC they never slip by a day. */
export function parseDay(iso: string): Date {
  return new Date(`${iso}T00:00:00Z`);
}

export function isoDay(day: Date): string {
  return day.toISOString().slice(0, 10);
}

export function addDays(iso: string, days: number): string {
  const day = parseDay(iso);
  day.setUTCDate(day.getUTCDate() + days);
  return isoDay(day);
}

/** 0 is Monday. */
export function weekday(iso: string): number {
  return (parseDay(iso).getUTCDay() + 6) % 7;
}

export function mondayOf(iso: string): string {
  return addDays(iso, -weekday(iso));
}

/** `23 Aug` */
export function shortDay(iso: string): string {
  const day = parseDay(iso);
  return `${day.getUTCDate()} ${MONTHS[day.getUTCMonth()]}`;
}

/** `Mon 23` */
export function dayOfWeek(iso: string): string {
  return `${DAYS[weekday(iso)]} ${parseDay(iso).getUTCDate()}`;
}

/** The date on the campus at a moment. */
export function campusDay(when: Date, zone: string): string {
  const part = parts(when, zone, { year: "numeric", month: "2-digit", day: "2-digit" });
  return `${part("year")}-${part("month")}-${part("day")}`;
}

/** `23 Aug`, with the year where it would else be read as another day. */
export function fullDay(iso: string, today: string): string {
  const short = shortDay(iso);
  return dayOf(short, today) === iso ? short : `${short} ${iso.slice(0, 4)}`;
}

/** How far a day without a year may lie behind before it is next year's. */
const DAYS_BACK = 90;

/**
 * `23 Aug`, `Aug 23`, `23 August 2027`, `23.8.` or `2027-08-23` as the latter; null for anything
 * else. `8/9` is two days, by who writes it, so it is none.
 */
export function dayOf(typed: string, today: string): string | null {
  const text = typed
    .trim()
    .toLowerCase()
    .replace(/^(mon|tue|wed|thu|fri|sat|sun)[a-z]*,? +/, "");
  const iso = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  if (iso) return existing(Number(iso[1]), Number(iso[2]), Number(iso[3]));
  const figures = /^(\d{1,2})\. ?(\d{1,2})\.? ?(\d{4})?$/.exec(text);
  const words =
    /^(\d{1,2}) ?([a-z]{3,9})\.?,? ?(\d{4})?$/.exec(text) ??
    /^([a-z]{3,9})\.? ?(\d{1,2})(?:,? (\d{4}))?$/.exec(text);
  if (!figures && !words) return null;
  const [, one = "", other = "", year] = figures ?? words ?? [];
  const [date, name] = /^\d/.test(one) ? [one, other] : [other, one];
  const month = figures ? Number(name) : monthOf(name);
  if (year) return existing(Number(year), month, Number(date));
  const earliest = addDays(today, -DAYS_BACK);
  const from = Number(earliest.slice(0, 4));
  // A 29 February may be years off.
  for (let candidate = from; candidate <= from + 8; candidate += 1) {
    const found = existing(candidate, month, Number(date));
    if (found && found >= earliest) return found;
  }
  return null;
}

const MONTH_NAMES =
  "january february march april may june july august september october november december".split(
    " ",
  );

function monthOf(name: string): number {
  return MONTH_NAMES.findIndex((month) => month.startsWith(name)) + 1;
}

function existing(year: number, month: number, date: number): string | null {
  if (month < 1 || month > 12) return null;
  const two = (n: number) => String(n).padStart(2, "0");
  const iso = `${year}-${two(month)}-${two(date)}`;
  const day = new Date(Date.UTC(year, month - 1, date));
  return year >= 1900 && isoDay(day) === iso ? iso : null;
}

/** Minutes since midnight as `09:05`. */
export function clockTime(minutes: number): string {
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}

/** `17:30`, `9`, `8.15` or `0930` in minutes since midnight; null for anything else. */
export function minuteOf(typed: string): number | null {
  const found = /^(\d{1,2})(?:[:.h]?(\d{2}))?$/.exec(typed.trim());
  const [hour, minute] = [Number(found?.[1]), Number(found?.[2] ?? 0)];
  return found && hour <= 23 && minute <= 59 ? hour * 60 + minute : null;
}
