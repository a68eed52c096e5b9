import type { RefObject } from "react";
import type { Schemas } from "../../../api/client";
import type { Search } from "../../../api/queries";

/** What drawing results takes, the first lines or all. */
export type ResultsProps = {
  term: string;
  search: Search;
  first: Schemas["SearchResponse"];
  stars: Set<string>;
  /** Courses agreed with the advisor. */
  agreed: Set<string>;
  scroller: RefObject<HTMLElement | null>;
};
