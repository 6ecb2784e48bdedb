import { useState } from 'react';
import { Choice } from '../../components/fields.tsx';
import { type DeskState, post } from './desk-api.ts';
import { PersonFields, usePerson } from './PersonFields.tsx';
import { Pushes } from './Pushes.tsx';

const CHANGES = [
  { status: 'confirmed', name: 'Confirm' },
  { status: 'moved', name: 'Move a day' },
  { status: 'cancelled', name: 'Cancel' },
  { status: 'no-show', name: 'Did not come' },
] as const;

const nextDayAt = (hour: number) => {
  const at = new Date();
  at.setDate(at.getDate() + 1);
  at.setHours(hour, 0, 0, 0);
  return at;
};
const shown = (iso: string) =>
  new Date(iso).toLocaleString('en-GB', {
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
  });

/** Two rooms to book, by the customer or by the desk, and what happens to an appointment afterwards. */
export function Calendars({
  desk,
  onSent,
}: {
  desk: DeskState;
  onSent: (phone: string | null, email: string) => void;
}) {
  const person = usePerson();
  const [calendar, setCalendar] = useState(desk.calendars[0]!.id);
  const [hour, setHour] = useState(16);
  const book = (bookedBy: 'self' | 'staff') => {
    const start = nextDayAt(hour);
    onSent(person.e164, person.email);
    void post('/appointments', {
      calendar,
      title: 'Trial lesson',
      start: start.toISOString(),
      end: new Date(start.getTime() + 30 * 60_000).toISOString(),
      bookedBy,
      person: { name: `${person.first} ${person.last}`, email: person.email, phone: person.phone },
    }).then(person.fill);
  };
  return (
    <>
      <h2 className="text-lg">Booking calendar</h2>
      <p className="mb-3 text-note text-ink-2">A trial lesson tomorrow</p>
      <PersonFields person={person} />
      <div className="mt-3 grid grid-cols-2 items-end gap-2">
        <Choice label="Room" block="block grow" small value={calendar} onChange={setCalendar}>
          {desk.calendars.map((calendar) => (
            <option key={calendar.id} value={calendar.id}>
              {calendar.name}
            </option>
          ))}
        </Choice>
        <Choice label="At" block="block" small value={String(hour)} onChange={(text) => setHour(Number(text))}>
          {[10, 11, 14, 15, 16, 17, 18].map((one) => (
            <option key={one} value={one}>
              {one}:00
            </option>
          ))}
        </Choice>
        <button type="button" className="btn btn-primary btn-sm" onClick={() => book('self')}>
          Book it myself
        </button>
        <button type="button" className="btn btn-plain btn-sm" onClick={() => book('staff')}>
          The desk books it
        </button>
      </div>
      <ul className="mt-3">
        {[...desk.appointments]
          .reverse()
          .slice(0, 5)
          .map((appointment) => (
            <li key={appointment.id} className="flex flex-wrap items-center gap-2 border-b border-base-300 py-1.5">
              <span className="font-semibold">{appointment.person.name}</span>
              <span className="text-ink-2">{shown(appointment.start)}</span>
              <span className="pill">{appointment.status}</span>
              <span className="ml-auto flex gap-1">
                {CHANGES.map(({ status, name }) => (
                  <button
                    key={status}
                    type="button"
                    className="btn btn-plain btn-xs"
                    onClick={() => void post(`/appointments/${appointment.id}`, { status })}
                  >
                    {name}
                  </button>
                ))}
              </span>
            </li>
          ))}
      </ul>
      <Pushes pushes={desk.pushes.filter((push) => push.service === 'calendar').reverse()} none="Nothing yet." />
    </>
  );
}
