import { type FormEvent, useId, useState } from "react";
import { api, type Schemas, take } from "../../../api/client";
import { useOnce } from "../../../api/once";
import { Button } from "../../../ui/Button";
import { Field, INPUT } from "../../../ui/Field";
import { ProblemNotice } from "../../../ui/Notice";
import { money } from "../../../ui/text";
import { SumField } from "../statement/SumField";
import { typedCents } from "../statement/words";

type Desk = Schemas["DeskResponse"];
type Kind = Schemas["PostingWanted"]["kind"];
type Props = { desk: Desk; term: string; onPosted: (desk: Desk) => void };

const KINDS: Record<Kind, string> = {
  payment: "Payment at the cash desk",
  aid: "Aid that has come",
  sponsor: "A sponsor's payment",
  waiver: "Charges waived",
  correction: "Correction",
  refund: "Paid back",
};

/** Posting an entry; pressed twice it is posted once. */
export function PostForm({ desk, term, onPosted }: Props) {
  const id = useId();
  const [kind, setKind] = useState<Kind>("payment");
  const [text, setText] = useState("");
  const [against, setAgainst] = useState(false);
  const [label, setLabel] = useState("");
  const [reason, setReason] = useState("");
  const cents = typedCents(text);
  const needsReason = kind === "waiver" || kind === "correction";
  const anticipated = desk.anticipated_payments.filter(
    (one) => one.kind === kind && one.open_cents > 0,
  );
  const [chosen, setChosen] = useState("");
  const kept = anticipated.find((one) => String(one.id) === chosen) ?? anticipated[0];
  const post = useOnce(
    (body: Schemas["PostingWanted"], header) =>
      take(
        api.POST("/api/terms/{term}/accounts/{student}/entries", {
          params: { path: { term, student: desk.student }, header },
          body,
        }),
      ),
    { onSuccess: onPosted },
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!cents) return;
    post.mutate({
      kind,
      amount_cents: kind === "correction" && against ? -cents : cents,
      label: label.trim(),
      reason: reason.trim(),
      anticipated_payment: kept?.id ?? null,
    });
  };
  return (
    <form className="mt-3 flex flex-wrap items-end gap-3 bg-shade p-3" onSubmit={submit}>
      <div className="w-60">
        <Field id={`${id}-kind`} label="What it is">
          <select
            id={`${id}-kind`}
            className={INPUT}
            value={kind}
            onChange={(event) => setKind(event.target.value as Kind)}
          >
            {Object.entries(KINDS).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </select>
        </Field>
      </div>
      <SumField id={`${id}-sum`} label="Sum" value={text} onChange={setText} />
      {kind === "correction" && (
        <div className="w-52">
          <Field id={`${id}-sign`} label="The student owes">
            <select
              id={`${id}-sign`}
              className={INPUT}
              value={against ? "more" : "less"}
              onChange={(event) => setAgainst(event.target.value === "more")}
            >
              <option value="less">so much less</option>
              <option value="more">so much more</option>
            </select>
          </Field>
        </div>
      )}
      {anticipated.length > 0 && (
        <div className="w-64">
          <Field id={`${id}-anticipated`} label="Payment that was anticipated">
            <select
              id={`${id}-anticipated`}
              className={INPUT}
              value={String(kept?.id ?? "")}
              onChange={(event) => setChosen(event.target.value)}
            >
              {anticipated.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.label}, {money(one.open_cents)} to come
                </option>
              ))}
            </select>
          </Field>
        </div>
      )}
      <div className="min-w-52 flex-1">
        <Field id={`${id}-label`} label="In the words of the statement">
          <input
            id={`${id}-label`}
            className={INPUT}
            maxLength={120}
            value={label}
            onChange={(event) => setLabel(event.target.value)}
          />
        </Field>
      </div>
      {needsReason && (
        <div className="min-w-64 flex-1">
          <Field id={`${id}-reason`} label="Why, as the student will read it">
            <input
              id={`${id}-reason`}
              className={INPUT}
              required
              maxLength={400}
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          </Field>
        </div>
      )}
      <Button
        type="submit"
        look="main"
        disabled={!cents || post.isPending || (needsReason && !reason.trim())}
      >
        {cents ? `Post ${money(cents)}` : "Post"}
      </Button>
      {text && cents === null && (
        <p className="basis-full text-[13px] text-soft">Write the sum like 250 or 250.00.</p>
      )}
      {post.error && (
        <div className="basis-full">
          <ProblemNotice problem={post.error} />
        </div>
      )}
    </form>
  );
}
