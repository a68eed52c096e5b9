import { useId } from "react";
import { Field, INPUT } from "../../../ui/Field";
import { clockTime, minuteOf } from "../../../ui/text";
import { Choices } from "./Choices";
import { type Counts, chosenText, isShown, type Shown, valuesOf } from "./chosen";
import { FilterChip, ToggleChip } from "./FilterChip";
import type { FilterRow, Filters } from "./filters";
import { useTyped } from "./useTyped";

type Props = { chip: string; rows: readonly FilterRow[]; filters: Filters; counts: Counts };

/** A chip with the filters that stand on it, as the table of filters says. */
export function Chip({ chip, rows, filters, counts }: Props) {
  const shown = rows.filter(isShown);
  const [first] = shown;
  if (!first) return null;
  if (shown.length === 1 && first.takes === "yes") {
    const count = valuesOf(counts, first.name)[0]?.sections;
    return (
      <ToggleChip
        label={chip}
        {...(count !== undefined ? { count } : {})}
        on={filters.yes(first.name)}
        onChange={(on) => filters.set(first.name, on)}
      />
    );
  }
  const chosen = shown.flatMap((row) => chosenText(row, filters, counts) || []);
  return (
    <FilterChip
      label={chip}
      chosen={chosen.join(shown.some(({ takes }) => takes === "free") ? " " : ", ")}
      onClear={() => {
        for (const row of shown) filters.set(row.name, []);
      }}
    >
      <div className="space-y-4">
        {shown.map((row) => (
          <div key={row.name}>
            <Choosing row={row} filters={filters} counts={counts} />
            {row.hint && <p className="mt-2 text-small text-soft">{row.hint}</p>}
          </div>
        ))}
      </div>
    </FilterChip>
  );
}

type ChoosingProps = { row: Shown; filters: Filters; counts: Counts };

/** What can be chosen of a filter, or typed. */
function Choosing({ row, filters, counts }: ChoosingProps) {
  if (row.takes === "text" || row.takes === "minute") return <Typing row={row} filters={filters} />;
  const isYes = row.takes === "yes";
  return (
    <Choices
      legend={row.legend}
      single={isYes || row.takes === "one"}
      values={valuesOf(counts, row.name)}
      chosen={isYes ? (filters.yes(row.name) ? ["yes"] : []) : filters.many(row.name)}
      onChange={(chosen) => filters.set(row.name, isYes ? chosen.length > 0 : chosen)}
    />
  );
}

function Typing({ row, filters }: { row: Shown; filters: Filters }) {
  const id = useId();
  const isTime = row.takes === "minute";
  const value = filters.one(row.name);
  const asText = isTime && value ? clockTime(Number(value)) : value;
  const [text, setText] = useTyped(asText, (typed) => {
    if (!isTime) filters.set(row.name, typed);
    else if (minuteOf(typed) !== null || !typed.trim())
      filters.set(row.name, String(minuteOf(typed) ?? ""));
  });
  return (
    <Field id={id} label={row.legend}>
      <input
        id={id}
        className={INPUT}
        autoComplete="off"
        maxLength={60}
        placeholder={isTime ? "17:30" : row.example}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      {isTime && text.trim() !== "" && minuteOf(text) === null && (
        <p className="mt-1 text-small text-madder">Write a time such as 17:30.</p>
      )}
    </Field>
  );
}
