import type { Schemas } from "../../../api/client";
import { FILTERS, SORTS } from "../../../api/filters";
import { Button } from "../../../ui/Button";
import { WORDS_FIELD } from "../../../ui/fields";
import { Chip } from "./Chip";
import { ToggleChip } from "./FilterChip";
import type { Filters } from "./filters";
import { useTyped } from "./useTyped";

type Props = {
  filters: Filters;
  counts: Schemas["FilterCounts"][];
  /** Somebody is signed in whose week can be fitted. */
  hasWeek: boolean;
  stars: number;
  recent: number;
  onEnter: () => void;
};

const CHIPS = [...new Set(FILTERS.map(({ chip }) => chip))].filter((chip) => chip !== "");

/** The filters: words first, then a chip for each; results follow as one types. */
export function FilterBar({ filters, counts, hasWeek, stars, recent, onEnter }: Props) {
  const { one, set } = filters;
  return (
    <search className="mt-3 flex flex-wrap items-center gap-2">
      <Words value={one("words")} onChange={(words) => set("words", words)} onEnter={onEnter} />
      {CHIPS.map((chip) => (
        <Chip
          key={chip}
          chip={chip}
          rows={FILTERS.filter((row) => row.chip === chip && (hasWeek || !row.needsWeek))}
          filters={filters}
          counts={counts}
        />
      ))}
      {(stars > 0 || one("list") === "starred") && (
        <ToggleChip
          label="Starred"
          count={stars}
          on={one("list") === "starred"}
          onChange={(on) => set("list", on ? "starred" : "")}
        />
      )}
      {(recent > 0 || one("list") === "recent") && (
        <ToggleChip
          label="Viewed lately"
          count={recent}
          on={one("list") === "recent"}
          onChange={(on) => set("list", on ? "recent" : "")}
        />
      )}
      {filters.active > 1 && (
        <Button look="quiet" className="text-[13px]" onClick={filters.clear}>
          Clear all
        </Button>
      )}
      <Sort filters={filters} hasWeek={hasWeek} />
    </search>
  );
}

function Sort({ filters, hasWeek }: { filters: Filters; hasWeek: boolean }) {
  return (
    <label className="ml-auto flex items-center gap-2 text-[13px] text-soft">
      Order
      <select
        className="min-h-[26px] rounded-sm border border-hair bg-surface px-1.5 text-ink"
        value={filters.one("sort") || "course"}
        onChange={({ target }) =>
          filters.set("sort", target.value === "course" ? "" : target.value)
        }
      >
        {SORTS.filter(([value]) => hasWeek || value !== "fit").map(([value, name]) => (
          <option key={value} value={value}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}

type WordsProps = { value: string; onChange: (words: string) => void; onEnter: () => void };

function Words({ value, onChange, onEnter }: WordsProps) {
  const [text, setText] = useTyped(value, onChange);
  return (
    <input
      id={WORDS_FIELD}
      className="min-h-[34px] w-[230px] rounded-sm border border-ink bg-white px-2.5 placeholder:text-soft max-sm:w-full"
      type="search"
      aria-label="Words, a course, an instructor or a reference number"
      placeholder="soil, bees, a name, 30412 …"
      autoComplete="off"
      maxLength={200}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === "Enter") onEnter();
      }}
    />
  );
}
