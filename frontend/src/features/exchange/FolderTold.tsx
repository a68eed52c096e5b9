import type { Schemas } from "../../api/client";
import { counted } from "../../ui/text";
import { AffectedSections } from "./AffectedSections";
import { TableTold } from "./TableTold";

type Report = Schemas["FolderReport"];

/** What a folder brings, or what is wrong with it. */
export function FolderTold({ report, name }: { report: Report; name: string }) {
  const brings = report.tables.filter((t) => t.new > 0 || t.changed > 0);
  return (
    <section aria-label={`What ${name} brings`} data-testid="report">
      <h3 className="mt-2 text-[18px] break-words">
        {name}: {heading(report)}
      </h3>
      {report.strangers.length > 0 && (
        <p className="mt-1 text-soft">
          Not read, being no {report.strangers.length === 1 ? "table" : "tables"} of the folder:{" "}
          {report.strangers.slice(0, 10).join(", ")}
          {report.strangers.length > 10 && " …"}
        </p>
      )}
      {report.mistakes_in_all > 0 && <Mistakes report={report} />}
      {report.mistakes_in_all === 0 && (
        <>
          {report.affected.length > 0 && <AffectedSections affected={report.affected} />}
          <Students report={report} />
          {brings.map((table) => (
            <TableTold key={table.name} table={table} />
          ))}
          {report.tables.some((t) => t.left_out > 0) && (
            <p className="mt-3 text-[13px] text-soft">
              What is there and not in the folder stays:{" "}
              {report.tables
                .filter((t) => t.left_out > 0)
                .map((t) => `${t.left_out.toLocaleString("en-US")} in ${t.name}`)
                .join(", ")}
              .
            </p>
          )}
        </>
      )}
    </section>
  );
}

/** Whom it affects beside those of the sections. */
function Students({ report: { windows, charged } }: { report: Report }) {
  return (
    <>
      {windows > 0 && (
        <p className="mt-2">
          {counted(windows, "student has", "students have")} other windows, and{" "}
          {windows === 1 ? "is" : "are"} told.
        </p>
      )}
      {charged > 0 && (
        <p className="mt-2">
          What a term costs is something else: {counted(charged, "student is", "students are")}{" "}
          registered and charged anew.
        </p>
      )}
    </>
  );
}

function heading(report: Report): string {
  if (report.mistakes_in_all > 0)
    return `${counted(report.mistakes_in_all, "mistake", "mistakes")}, nothing was changed`;
  if (report.changes_nothing) return "everything in it is there already";
  return report.is_done ? "taken over" : "this would change";
}

function Mistakes({ report }: { report: Report }) {
  return (
    <div className="mt-2 relative overflow-x-auto">
      <table className="w-full border-t border-ink text-[13px]">
        <thead>
          <tr className="border-b border-hair text-left text-small text-soft">
            <th className="py-1.5 pr-4 font-normal">Table</th>
            <th className="pr-4 text-right font-normal">Line</th>
            <th className="pr-4 font-normal">Column</th>
            <th className="pr-4 font-normal">What is there</th>
            <th className="font-normal">What is the matter</th>
          </tr>
        </thead>
        <tbody>
          {report.mistakes.map((m) => (
            <tr
              key={`${m.table}:${m.line}:${m.column}:${m.problem}`}
              className="border-b border-hair align-baseline"
            >
              <td className="py-1 pr-4">{m.table}</td>
              <td className="pr-4 text-right tabular-nums">{m.line || ""}</td>
              <td className="pr-4">{m.column}</td>
              <td className="number pr-4 break-all">{m.value}</td>
              <td>
                {m.problem}
                {m.guess && (
                  <>
                    ; <span className="number">{m.guess}</span>?
                  </>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {report.mistakes_in_all > report.mistakes.length && (
        <p className="mt-2 text-soft">
          And {(report.mistakes_in_all - report.mistakes.length).toLocaleString("en-US")} more.
        </p>
      )}
    </div>
  );
}
