/** What an account says, in words. */
import type { Schemas } from "../../../api/client";

/** `Friday 13 August, 17:00` */
export function longMoment(iso: string, zone: string): string {
  const found = new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    weekday: "long",
    day: "numeric",
    month: "long",
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
  }).formatToParts(new Date(iso));
  const part = (type: string) => found.find((one) => one.type === type)?.value ?? "";
  return `${part("weekday")} ${part("day")} ${part("month")}, ${part("hour")}:${part("minute")}`;
}

/** `13 August` */
export function longDay(iso: string, zone: string): string {
  return new Intl.DateTimeFormat("en-GB", { timeZone: zone, day: "numeric", month: "long" }).format(
    new Date(iso),
  );
}

const NUMBERS = "no one two three four five six seven eight nine ten eleven twelve".split(" ");

/** `four seats`, `one seat` */
export function seats(many: number): string {
  return `${NUMBERS[many] ?? many} ${many === 1 ? "seat" : "seats"}`;
}

/** A sum as it is typed, in cents; null where it is none. */
export function typedCents(text: string): number | null {
  const plain = text.trim().replace(/(\d),(?=\d{3}\b)/g, "$1");
  return /^\d{1,6}(\.\d{1,2})?$/.test(plain) ? Math.round(Number(plain) * 100) : null;
}

/** What is open and not promised: paid, it settles the account. */
export function openCents(account: Schemas["AccountResponse"]): number {
  const promised = account.anticipated_payments_count ? account.anticipated_cents : 0;
  return Math.max(0, account.balance_cents - promised);
}
