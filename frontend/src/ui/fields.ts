/** The fields that keys go to, by the ids of their elements. */
export const NUMBER_FIELD = "reference-numbers";
export const WORDS_FIELD = "find-words";
