import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/Button";

/** So many changed rows of a table are shown at first. */
const FIRST = 5;

/** What a table brings: how many rows, and the first that change with what they were. */
export function TableTold({ table }: { table: Schemas["TableChange"] }) {
  const [all, setAll] = useState(false);
  const shown = all ? table.first_changed : table.first_changed.slice(0, FIRST);
  const hidden = table.first_changed.length - shown.length;
  return (
    <div className="mt-3">
      <h4 className="font-sans font-semibold">
        {table.name}
        <span className="ml-2 font-normal text-soft">
          {[
            table.new > 0 && `${table.new.toLocaleString("en-US")} new`,
            table.changed > 0 && `${table.changed.toLocaleString("en-US")} changed`,
          ]
            .filter(Boolean)
            .join(", ")}
        </span>
      </h4>
      <ul className="text-[13px]">
        {shown.map((row) => (
          <li key={row.key.join(" ")} className="border-b border-hair py-1">
            <span className="number mr-2">{row.key.join(" ")}</span>
            {Object.entries(row.cells).map(([column, [before, after]]) => (
              <span key={column} className="mr-3 break-words">
                {column}: <span className="text-soft">{before || "empty"}</span> →{" "}
                {after || "empty"}
              </span>
            ))}
          </li>
        ))}
      </ul>
      {hidden > 0 && (
        <Button look="link" className="text-[13px]" onClick={() => setAll(true)}>
          {hidden} more<span className="sr-only"> changed in {table.name}</span>
        </Button>
      )}
      {all && table.changed > table.first_changed.length && (
        <p className="text-[13px] text-soft">
          And {table.changed - table.first_changed.length} more.
        </p>
      )}
    </div>
  );
}
