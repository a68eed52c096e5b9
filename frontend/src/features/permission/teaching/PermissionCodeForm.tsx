import { type FormEvent, useId, useState } from "react";
import type { Schemas } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { DayField } from "../../../ui/DayField";
import { Field, INPUT } from "../../../ui/Field";
import { UserNameField } from "../../../ui/UserNameField";
import { useToday } from "../../access/session/useToday";
import { type Lift, LiftChoice } from "./LiftChoice";

type Wanted = Schemas["PermissionCodesWanted"];
type Props = { isPending: boolean; onGive: (wanted: Wanted) => void };

/** New codes: what they lift, how many, for whom, until when. */
export function PermissionCodeForm({ isPending, onGive }: Props) {
  const id = useId();
  const today = useToday();
  const [waives, setWaives] = useState<Lift[]>([]);
  const [many, setMany] = useState("1");
  const [student, setStudent] = useState("");
  const [until, setUntil] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    onGive({
      waives,
      many: Number(many),
      student: student.trim(),
      expires_at: until ? `${until}T23:59` : null,
    });
  };
  return (
    <form className="my-3 bg-shade p-3.5 text-[13px]" onSubmit={submit}>
      <LiftChoice legend="A code lifts" chosen={waives} onChoose={setWaives} />
      <div className="flex flex-wrap items-end gap-3">
        <div className="w-24">
          <Field id={`${id}-many`} label="How many">
            <input
              id={`${id}-many`}
              className={INPUT}
              type="number"
              min={1}
              max={50}
              required
              value={many}
              onChange={(event) => setMany(event.target.value)}
            />
          </Field>
        </div>
        <UserNameField label="Only for (user name)" value={student} onChange={setStudent} />
        <div className="w-52">
          <DayField
            label="Good through (else 30 days)"
            today={today}
            min={today}
            value={until}
            onChange={setUntil}
          />
        </div>
        <Button type="submit" disabled={isPending || waives.length === 0}>
          {Number(many) > 1 ? `Give out ${many} codes` : "Give out a code"}
        </Button>
        {waives.length === 0 && <span className="pb-2 text-soft">Choose what it lifts.</span>}
      </div>
    </form>
  );
}
