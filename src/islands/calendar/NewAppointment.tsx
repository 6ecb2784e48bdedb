import { useState } from 'react';
import { call } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { AddPopover } from '../../components/AddPopover.tsx';
import { Choice, Line } from '../../components/fields.tsx';
import { LeadPicker, type PickedLead } from '../../components/LeadPicker.tsx';

const LENGTHS = [15, 30, 45, 60, 90, 120] as const;

/** Puts an appointment into a colleague's week. */
export default function NewAppointment({
  colleagues,
  day,
}: {
  colleagues: { id: string; name: string }[];
  /** The day it is proposed for, "YYYY-MM-DD". */
  day: string;
}) {
  const [colleagueId, setColleagueId] = useState(colleagues[0]?.id ?? '');
  const [lead, setLead] = useState<PickedLead | null>(null);
  const [title, setTitle] = useState('');
  const [startsAt, setStartsAt] = useState(`${day}T10:00`);
  const [minutes, setMinutes] = useState('30');
  const { act, busy, told } = useAction();
  const add = () =>
    act(async () => {
      const about = { colleagueId, leadId: lead?.id ?? null, title, startsAt, minutes: Number(minutes) };
      await call('POST', '/api/calendar/appointments', about);
      await goTo(`/calendar?week=${startsAt.slice(0, 10)}`);
    });
  return (
    <AddPopover what="New appointment" buttonClass="btn btn-primary btn-sm" panelClass="w-80 p-3">
      {() => (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void add();
          }}
        >
          <Choice
            label="Whose time"
            value={colleagueId}
            options={colleagues.map((colleague) => [colleague.id, colleague.name] as const)}
            onChange={setColleagueId}
          />
          <Line label="What it is" value={title} maxLength={300} placeholder="Trial lesson" onChange={setTitle} />
          <Line label="When" small value={startsAt} type="datetime-local" onChange={setStartsAt} />
          <Choice
            label="How long"
            value={minutes}
            options={LENGTHS.map((n) => [String(n), `${n} minutes`] as const)}
            onChange={setMinutes}
          />
          <LeadPicker label="With which lead, if with one" value={lead} onChange={setLead} />
          <Notice told={told} className="mb-2 text-note" />
          <button type="submit" className="btn btn-primary btn-sm w-full" disabled={busy || title.trim() === ''}>
            Put it in
          </button>
        </form>
      )}
    </AddPopover>
  );
}
