import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useId, useState } from "react";
import { useAnnounce } from "../../ui/announce";
import { Button } from "../../ui/Button";
import { FileInput } from "../../ui/FileInput";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { FolderTold } from "./FolderTold";
import { type Progress, sendFolder } from "./sendFolder";

type Wanted = { file: File; trial: boolean; expected: string; stopping: AbortController };

/** Reading a folder in: first a trial that tells all of it, then on a press. */
export function BringIn() {
  const id = useId();
  const client = useQueryClient();
  const announce = useAnnounce();
  const [progress, setProgress] = useState<Progress | null>(null);
  const [isOver, setIsOver] = useState(false);
  const [file, setFile] = useState<File | null>(null);
  const send = useMutation({
    mutationFn: ({ stopping, ...wanted }: Wanted) =>
      sendFolder(wanted, setProgress, stopping.signal),
    onSuccess: ({ is_done, mistakes_in_all, has_moved }) => {
      if (is_done) {
        announce("The folder is taken over.");
        // Terms, people, sections: anything may be another thing now.
        client.invalidateQueries();
      } else if (has_moved) announce("It would do something else now. Look at it again.");
      else if (mistakes_in_all > 0) announce(`${mistakes_in_all} mistakes.`);
      else announce("Here is what it would change.");
    },
    onSettled: () => setProgress(null),
  });
  const look = (chosen: File | undefined) => {
    if (!chosen || send.isPending) return;
    setFile(chosen);
    send.mutate({
      file: chosen,
      trial: true,
      expected: "",
      stopping: new AbortController(),
    });
  };
  const onDrop = (event: DragEvent) => {
    event.preventDefault();
    setIsOver(false);
    look(event.dataTransfer.files[0]);
  };
  const report = send.data;
  return (
    <section aria-labelledby={`${id}-in`} className="min-w-0">
      <h2 id={`${id}-in`} className="text-[20px]">
        In
      </h2>
      <p className="mt-1 mb-3 text-soft">
        A folder of tables, as one .zip or one .xlsx. First you see what is wrong with it, or what
        it would change and whom that reaches; nothing is changed before you say so.
      </p>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping is one more way to choose the file below */}
      <div
        className={`border border-dashed px-5 py-6 ${isOver ? "border-pine bg-shade" : "border-soft bg-surface"}`}
        onDragOver={(event) => {
          event.preventDefault();
          setIsOver(true);
        }}
        onDragLeave={() => setIsOver(false)}
        onDrop={onDrop}
      >
        <label htmlFor={`${id}-file`} className="mb-2 block">
          Drop the folder here, or choose it
        </label>
        <FileInput id={`${id}-file`} accept=".zip,.xlsx" isBusy={send.isPending} onFile={look} />
      </div>
      {send.isPending && <Bar progress={progress} onStop={() => send.variables.stopping.abort()} />}
      <div className="mt-4">
        {send.error && <ProblemNotice problem={send.error} />}
        {report && file && (
          <>
            {report.has_moved && (
              <Notice tone="warning">
                Something has changed since you looked. Nothing was taken over; this is what the
                folder would do now.
              </Notice>
            )}
            <FolderTold report={report} name={file.name} />
            {!report.is_done && report.mistakes_in_all === 0 && !report.changes_nothing && (
              <div className="mt-4">
                <Button
                  look="main"
                  disabled={send.isPending}
                  onClick={() =>
                    send.mutate({
                      file,
                      trial: false,
                      expected: report.digest,
                      stopping: new AbortController(),
                    })
                  }
                >
                  Take it over
                </Button>
              </div>
            )}
          </>
        )}
      </div>
    </section>
  );
}

/** How far it has come. */
function Bar({ progress, onStop }: { progress: Progress | null; onStop: () => void }) {
  const share = progress?.share ?? 0;
  return (
    <div className="mt-4">
      <div
        role="progressbar"
        aria-label="Reading the folder"
        aria-valuenow={Math.round(share * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        className="h-2 border border-ink bg-surface"
      >
        <div
          className="h-full bg-pine forced-color-adjust-none"
          style={{ width: `${share * 100}%` }}
        />
      </div>
      <div className="mt-1 flex items-baseline gap-4">
        <p className="min-w-0 flex-1 text-[13px] text-soft">
          {(share * 100).toFixed(0)} per cent{progress?.doing && `: ${progress.doing}`}
        </p>
        <Button onClick={onStop}>Stop</Button>
      </div>
    </div>
  );
}
