import { useMutation, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useMemo, useState } from "react";
import { api, type Schemas, take } from "../../api/client";
import { termWindowsQuery } from "../../api/registrarQueries";
import { useAnnounce } from "../../ui/announce";
import { Button } from "../../ui/Button";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Page";
import { counted } from "../../ui/text";
import { AssignmentForm } from "./AssignmentForm";
import { assignmentBars } from "./slots";

const SlotPicture = lazy(async () => ({ default: (await import("./SlotPicture")).SlotPicture }));

type Wanted = Schemas["AssignmentWanted"];
type Props = { windows: Schemas["WindowsResponse"]; term: string };

/** Assigning windows: say how, look at what comes of it, publish that. */
export function Assignment({ windows, term }: Props) {
  const client = useQueryClient();
  const announce = useAnnounce();
  const [looked, setLooked] = useState<Wanted | null>(null);
  const preview = useMutation({
    mutationFn: (body: Wanted) =>
      take(
        api.POST("/api/office/terms/{term}/windows/preview", { params: { path: { term } }, body }),
      ),
    onSuccess: (_, body) => setLooked(body),
  });
  const publish = useMutation({
    mutationFn: (body: Wanted) =>
      take(
        api.POST("/api/office/terms/{term}/windows/assignments", {
          params: { path: { term } },
          body,
        }),
      ),
    onSuccess: ({ assigned }) => {
      announce(`${assigned} windows are published.`);
      preview.reset();
      client.invalidateQueries({ queryKey: termWindowsQuery(term).queryKey });
    },
  });
  return (
    <section className="mt-8" aria-labelledby="assign">
      <h2 id="assign" className="text-[20px]">
        Assign windows
      </h2>
      <p className="mt-1 max-w-[66ch] text-soft">
        Named groups choose first, then those with most credits. Among equals the order is drawn:
        the same seed always draws the same, so anybody can check it. Who has a window keeps it.
      </p>
      <AssignmentForm
        windows={windows}
        isLooking={preview.isPending}
        onChange={() => {
          preview.reset();
          publish.reset();
        }}
        onLook={(rule, moves_assigned) => preview.mutate({ rule, moves_assigned, digest: "" })}
      />
      {preview.error && <ProblemNotice problem={preview.error} />}
      {preview.data && looked && (
        <Preview
          assignment={preview.data}
          isPublishing={publish.isPending}
          onPublish={() => publish.mutate({ ...looked, digest: preview.data.digest })}
        />
      )}
      {publish.error && (
        <div className="mt-3">
          <ProblemNotice problem={publish.error} />
        </div>
      )}
      {publish.data && !preview.data && (
        <div className="mt-4">
          <Notice tone="note">
            {counted(publish.data.assigned, "window is", "windows are")} published
            {publish.data.moved > 0 && `, ${publish.data.moved} of them moved`}.{" "}
            {publish.data.is_told
              ? "Each student has a message."
              : "Students are told when the term is opened."}
          </Notice>
        </div>
      )}
    </section>
  );
}

type PreviewProps = {
  assignment: Schemas["AssignmentResponse"];
  isPublishing: boolean;
  onPublish: () => void;
};

function Preview({ assignment, isPublishing, onPublish }: PreviewProps) {
  const bars = useMemo(() => assignmentBars(assignment), [assignment]);
  const { assigned, kept, left, slots, each, windows_seen, carried } = assignment;
  const peak = Math.max(0, ...slots.map(({ expected }) => expected));
  const most = Math.max(0, ...slots.map((slot) => slot.assigned + slot.kept));
  return (
    <div className="mt-5" data-testid="preview">
      <div className="flex flex-wrap items-start gap-x-6 gap-y-3">
        <div className="min-w-[280px] flex-1" role="status">
          <p>
            <b className="font-semibold">{counted(assigned, "window", "windows")}</b> in{" "}
            {counted(slots.length, "slot", "slots")}
            {kept > 0 && `; ${counted(kept, "student keeps", "students keep")} theirs`}.
            {left > 0 && (
              <span className="text-madder">
                {" "}
                {counted(left, "student", "students")} would be left without: let the slots take
                more, or let them go on longer.
              </span>
            )}
          </p>
          <p className="mt-1 text-[13px] text-soft">
            At most {most} open together. In the first minute of such a slot{" "}
            {counted(peak, "sending is", "sendings are")} to be expected
            {windows_seen >= 200
              ? ` (${(each * 100).toFixed(0)} for a hundred students, as seen in ${windows_seen.toLocaleString("en-US")} windows so far)`
              : " (one each; too few windows have opened to know better)"}
            ; {carried.toLocaleString("en-US")} a minute have been measured to go through.
          </p>
        </div>
        <Button
          look="main"
          disabled={isPublishing || assigned === 0 || left > 0}
          onClick={onPublish}
        >
          {isPublishing ? "Publishing…" : "Publish them"}
        </Button>
      </div>
      <Suspense fallback={<Reading what="the picture" />}>
        <SlotPicture bars={bars} parts={[...assignment.parts, "kept from before"]} />
      </Suspense>
    </div>
  );
}
