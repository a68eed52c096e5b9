import { useId } from "react";
import { DayField } from "../../../ui/DayField";
import { Field, INPUT } from "../../../ui/Field";
import { HourField } from "../../../ui/HourField";
import { Weekdays } from "../../../ui/Weekdays";
import { useToday } from "../../access/session/useToday";
import type { MeetingDraft } from "./sections";

type Props = {
  title: string;
  meeting: MeetingDraft;
  campuses: Record<string, string>;
  onChange: (meeting: MeetingDraft) => void;
};

/** When and where a section meets. */
export function MeetingFields({ title, meeting, campuses, onChange }: Props) {
  const id = useId();
  const today = useToday();
  const set = (part: Partial<MeetingDraft>) => onChange({ ...meeting, ...part });
  return (
    <fieldset className="border-l-2 border-hair pl-3">
      <legend className="mb-1 font-semibold">{title}</legend>
      <Weekdays value={meeting.weekdays} onChange={(weekdays) => set({ weekdays })} />
      <div className="mt-2 grid grid-cols-2 gap-3">
        <HourField label="From" value={meeting.starts} onChange={(starts) => set({ starts })} />
        <HourField label="To" value={meeting.ends} onChange={(ends) => set({ ends })} />
        <DayField
          label="First day"
          required
          today={today}
          value={meeting.first_day}
          onChange={(first_day) => set({ first_day })}
        />
        <DayField
          label="Last day"
          required
          today={today}
          min={meeting.first_day || undefined}
          value={meeting.last_day}
          onChange={(last_day) => set({ last_day })}
        />
        <Field id={`${id}-campus`} label="Campus">
          <select
            id={`${id}-campus`}
            className={INPUT}
            value={meeting.campus}
            onChange={(event) => set({ campus: event.target.value })}
          >
            <option value="">None: online</option>
            {Object.entries(campuses).map(([code, name]) => (
              <option key={code} value={code}>
                {name}
              </option>
            ))}
          </select>
        </Field>
        <Field id={`${id}-room`} label="Room">
          <input
            id={`${id}-room`}
            className={INPUT}
            maxLength={80}
            value={meeting.room}
            onChange={(event) => set({ room: event.target.value })}
          />
        </Field>
      </div>
    </fieldset>
  );
}
