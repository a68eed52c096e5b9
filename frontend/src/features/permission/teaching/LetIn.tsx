import { useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useId, useState } from "react";
import { api, type Schemas, take } from "../../../api/client";
import { useOnce } from "../../../api/once";
import { useAnnounce } from "../../../ui/announce";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { ProblemNotice } from "../../../ui/Notice";
import { UserNameField } from "../../../ui/UserNameField";
import { type Lift, LiftChoice } from "./LiftChoice";

/** Let one student in without a request or a code: what stops them is lifted, once, and they are told. */
export function LetIn({ term, number }: { term: string; number: string }) {
  const id = useId();
  const client = useQueryClient();
  const announce = useAnnounce();
  const [waives, setWaives] = useState<Lift[]>(["seats"]);
  const [student, setStudent] = useState("");
  const [words, setWords] = useState("");
  const [done, setDone] = useState("");
  const letIn = useOnce(
    (body: Schemas["LetIn"], header) =>
      take(
        api.POST("/api/terms/{term}/taught/{number}/let-in", {
          params: { path: { term, number }, header },
          body,
        }),
      ),
    {
      onSuccess: () => {
        const told = `${student} may come in, and has been told.`;
        setDone(told);
        announce(told);
        setStudent("");
        setWords("");
        client.invalidateQueries({ queryKey: ["taught"] });
      },
    },
  );
  return (
    <details className="mt-2 mb-5">
      <summary className="link w-fit cursor-pointer py-1">Let somebody in</summary>
      <form
        className="mt-1 bg-shade p-3.5 text-[13px]"
        onSubmit={(event: FormEvent) => {
          event.preventDefault();
          setDone("");
          letIn.mutate({ student, waives, words, until: null });
        }}
      >
        <LiftChoice legend="It lifts" chosen={waives} onChoose={setWaives} />
        <div className="flex flex-wrap items-end gap-3">
          <UserNameField
            label="Student (user name)"
            required
            value={student}
            onChange={setStudent}
          />
          <div className="min-w-56 flex-1">
            <Field id={`${id}-words`} label="Words to the student, if you like">
              <input
                id={`${id}-words`}
                className={INPUT}
                maxLength={400}
                value={words}
                onChange={(event) => setWords(event.target.value)}
              />
            </Field>
          </div>
          <Button type="submit" disabled={letIn.isPending || waives.length === 0}>
            Let in
          </Button>
        </div>
        <p className="mt-2 text-soft" role="status">
          {done}
        </p>
        {letIn.isError && <ProblemNotice problem={letIn.error} />}
      </form>
    </details>
  );
}
