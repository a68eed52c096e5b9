/** How requests are worded on the screen. */
import type { Schemas } from "../../../api/client";
import { dayAndTime, listed } from "../../../ui/text";

export type Request = Schemas["RequestResponse"];
export type Lift = Request["waives"][number];
export type Tone = "pine" | "ochre" | "madder" | "woad" | "soft";

export const LIFTED: Record<Lift, string> = {
  consent: "the consent it takes",
  seats: "a seat beyond the limit",
  requisite: "what it requires",
  restriction: "who may take it",
  "late add": "a late add",
  repeat: "taking it once more",
  credits: "more credits than the limit",
  conflict: "the clash of times",
  hold: "a hold",
};

export function lifted(waives: Lift[]): string {
  return listed(waives.map((what) => LIFTED[what]));
}

/** What has become of a request, in a few words and their colour. */
export function stateOf(request: Request, zone: string): { word: string; tone: Tone } {
  const { state, who, used_at, is_good, good_until } = request;
  const since = dayAndTime(new Date(request.since), zone);
  switch (state) {
    case "open":
      return { word: `With ${who} since ${since}`, tone: "woad" };
    case "asked back":
      return { word: `A question to you, since ${since}`, tone: "ochre" };
    case "granted":
      if (used_at)
        return { word: `Yes, used on ${dayAndTime(new Date(used_at), zone)}`, tone: "pine" };
      if (is_good && good_until)
        return {
          word: `Yes, good until ${dayAndTime(new Date(good_until), zone)}`,
          tone: "pine",
        };
      return { word: "Yes, but its time is over", tone: "soft" };
    case "refused":
      return { word: `No, ${since}`, tone: "madder" };
    case "taken back":
      return { word: `The yes was taken back, ${since}`, tone: "madder" };
    case "withdrawn":
      return { word: `You took it back, ${since}`, tone: "soft" };
    case "closed":
      return { word: `Ended by itself, ${since}`, tone: "soft" };
  }
}

export const TONES: Record<Tone, string> = {
  pine: "text-pine",
  ochre: "text-ochre",
  madder: "text-madder",
  woad: "text-woad",
  soft: "text-soft",
};

type Event = Request["events"][number];

/** What happened, as a sentence without the words that were said. */
export function eventWords({ what, by, stands_for }: Event): string {
  const who = stands_for ? `${by}, for ${stands_for},` : by;
  switch (what) {
    case "asked":
      return `${who} asked`;
    case "asked back":
      return `${who} asks`;
    case "answered":
      return `${who} answered`;
    case "passed on":
      return `${who} said yes; it goes on to the next`;
    case "granted":
      return `${who} said yes`;
    case "refused":
      return `${who} said no`;
    case "taken back":
      return `${who} took the yes back`;
    case "withdrawn":
      return `${who} took the request back`;
    case "reminded":
      return "A reminder was sent";
    case "stuck":
      return "It could not be put through yet";
    case "put through":
      return "It was put through";
    case "closed":
      return "It ended by itself";
  }
}

/** `120 KB`, `1.4 MB` */
export function sizeWords(octets: number): string {
  if (octets < 1_000_000) return `${Math.max(1, Math.round(octets / 1000))} KB`;
  return `${(octets / 1_000_000).toFixed(1)} MB`;
}

export const MOST_OCTETS = 2 * 1024 * 1024;
export const FILE_KINDS = ".pdf,.png,.jpg,.jpeg,application/pdf,image/png,image/jpeg";

/** What is the matter with a file before it is sent at all; "" if nothing is. */
export function fileTrouble({ name, size }: { name: string; size: number }): string {
  if (size > MOST_OCTETS)
    return `“${name}” has ${sizeWords(size)}; up to 2 MB can be attached. Make it smaller.`;
  if (!/\.(pdf|png|jpe?g)$/i.test(name)) return `“${name}” is no PDF, PNG or JPEG.`;
  return "";
}
