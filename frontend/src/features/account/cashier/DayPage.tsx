import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, take } from "../../../api/client";
import { DayField } from "../../../ui/DayField";
import { Field } from "../../../ui/Field";
import { FileInput } from "../../../ui/FileInput";
import { Notice, ProblemNotice } from "../../../ui/Notice";
import { Page } from "../../../ui/Page";
import { counted } from "../../../ui/text";
import { useToday } from "../../access/session/useToday";
import { OfficeTabs } from "../../office/OfficeTabs";
import { usePageSubject } from "../../students/subject/usePageSubject";

/** The day's entries, to the finance office and from it. */
export function DayPage() {
  const id = useId();
  const client = useQueryClient();
  const { term } = usePageSubject();
  const today = useToday();
  const [chosen, setChosen] = useState<string | null>(null);
  const day = chosen ?? today;
  const bring = useMutation({
    mutationFn: async (file: File) =>
      take(
        api.POST("/api/terms/{term}/day-file", {
          params: { path: { term } },
          body: { text: await file.text() },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["owing", term] }),
  });
  return (
    <Page title="The day" aside={<OfficeTabs of="cashier" />}>
      <div className="mt-3 grid gap-8 border-t border-ink pt-4 md:grid-cols-2">
        <section aria-labelledby="out">
          <h2 id="out" className="text-[20px]">
            To the finance office
          </h2>
          <p className="mt-1 mb-3 text-soft">
            Every entry of a day, each once. Of a day that is over the file is always the same.
          </p>
          <div className="flex flex-wrap items-end gap-3">
            <div className="w-44">
              <DayField label="Day" today={today} value={day} onChange={setChosen} />
            </div>
            {day && (
              <a className="link pb-2" href={`/api/terms/${term}/day-file?day=${day}`} download>
                Table file of that day
              </a>
            )}
          </div>
        </section>
        <section aria-labelledby="in">
          <h2 id="in" className="text-[20px]">
            From the finance office
          </h2>
          <p className="mt-1 mb-3 text-soft">
            A table file whose first line is{" "}
            <code className="number text-[12px]">id,student,kind,amount,what,reason</code>. An id
            that was told before counts once. With any line that is not right nothing is taken.
          </p>
          <Field id={`${id}-file`} label="File">
            <FileInput
              id={`${id}-file`}
              accept=".csv,text/csv"
              isBusy={bring.isPending}
              onFile={bring.mutate}
            />
          </Field>
          <div className="mt-3" aria-live="polite">
            {bring.isPending && <p className="text-soft">Reading the file…</p>}
            {bring.error && <ProblemNotice problem={bring.error} />}
            {bring.data && bring.data.problems.length === 0 && (
              <Notice tone="note">
                {counted(bring.data.taken, "entry was", "entries were")} taken over
                {bring.data.known > 0 && `, ${bring.data.known} had been told before`}.
              </Notice>
            )}
            {bring.data && bring.data.problems.length > 0 && (
              <Notice tone="stop">
                <p>Nothing was taken over. Put these lines right and choose the file again.</p>
                <ol className="mt-1.5 space-y-0.5">
                  {bring.data.problems.map(({ line, text }) => (
                    <li key={`${line}-${text}`}>
                      <b className="font-semibold">Line {line}:</b> {text}
                    </li>
                  ))}
                </ol>
                {bring.data.more > 0 && <p>And {bring.data.more} more.</p>}
              </Notice>
            )}
          </div>
        </section>
      </div>
    </Page>
  );
}
