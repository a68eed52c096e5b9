import type { Schemas } from "../../../api/client";

type Props = { reports: Schemas["ReportResponse"][]; onClear: () => void };

/** What of the numbers entered was not put into the cart, and why. */
export function NotTaken({ reports, onClear }: Props) {
  return (
    <div className="mt-2 border-l-4 border-l-ochre pl-3 text-[13px]">
      <ul className="max-h-40 space-y-1 overflow-auto">
        {reports.map((report) => (
          <li key={report.piece + report.text}>
            {report.piece && <b className="number font-bold">{report.piece}</b>} {report.text}
          </li>
        ))}
      </ul>
      <button type="button" className="link mt-1" onClick={onClear}>
        Clear these lines
      </button>
    </div>
  );
}
