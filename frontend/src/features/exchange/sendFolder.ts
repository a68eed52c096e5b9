/** Sending a folder and hearing how far it has come. */
import type { Schemas } from "../../api/client";
import { csrfToken } from "../../api/client";
import { connection } from "../../api/connection";
import { Problem } from "../../api/problem";
import { lastLine, parsed } from "./lines";

export type Progress = { doing: string; share: number };

/** Sending is the first tenth of the whole. */
const SENDING = 0.1;

type Sent = { file: File; trial: boolean; expected: string };

/**
 * Sends a folder; tells meanwhile how far it has come. A request of the older kind: only that one tells of
 * what has been sent so far.
 */
export function sendFolder(
  { file, trial, expected }: Sent,
  onProgress: (progress: Progress) => void,
  signal: AbortSignal,
): Promise<Schemas["FolderReport"]> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    const query = new URLSearchParams({ name: file.name, trial: String(trial), expected });
    request.open("POST", `/api/exchange/folder?${query}`);
    request.setRequestHeader("X-CSRF-Token", csrfToken());
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.upload.onprogress = ({ loaded, total }) =>
      onProgress({ doing: `sending ${file.name}`, share: (SENDING * loaded) / (total || 1) });
    request.onprogress = () => {
      const line = lastLine(request.responseText);
      if (request.status === 200 && line)
        onProgress({
          doing: line.doing ?? "",
          share: SENDING + (1 - SENDING) * (line.share ?? 0),
        });
    };
    request.onerror = () => {
      connection.lost();
      reject(
        new Problem(
          0,
          "The connection was lost",
          "Whether the folder was taken over is not known here: send it again, and it tells.",
        ),
      );
    };
    request.onabort = () =>
      reject(
        trial
          ? new Problem(0, "Stopped", "Nothing was changed.")
          : new Problem(
              0,
              "Stopped",
              "All of it is taken over or nothing: send it again, and it tells.",
            ),
      );
    signal.addEventListener("abort", () => request.abort());
    request.onload = () => {
      connection.well();
      const line = request.status === 200 ? lastLine(request.responseText) : null;
      if (line?.report) resolve(line.report);
      else reject(problemIn(line?.problem ?? parsed(request.responseText), request.status));
    };
    request.send(file);
  });
}

function problemIn(found: unknown, status: number): Problem {
  const document = found as Partial<Schemas["ProblemDocument"]> | null;
  return new Problem(
    status,
    document?.title ?? "The server gave no readable answer",
    document?.detail ?? "Send the folder again: it tells what is there already.",
  );
}
