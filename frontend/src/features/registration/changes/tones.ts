/** The edge and the word of a verdict, by its tone. */
import type { Tone } from "./verdict";

export const EDGES: Record<Tone, string> = {
  pine: "border-l-pine",
  ochre: "border-l-ochre",
  madder: "border-l-madder",
  woad: "border-l-woad",
};

export const WORDS: Record<Tone, string> = {
  pine: "text-pine",
  ochre: "text-ochre",
  madder: "text-madder",
  woad: "text-woad",
};
