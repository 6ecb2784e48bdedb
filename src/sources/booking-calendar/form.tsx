import { useCallback, useState } from 'react';
import { ChoicePicker } from '../../components/ChoicePicker.tsx';
import { EventChoice } from '../../components/EventChoice.tsx';
import { ConnectionChoice, firstOf, OneOf, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export const EVENTS = [
  { value: 'booked', label: 'Booked' },
  { value: 'confirmed', label: 'Confirmed' },
  { value: 'moved', label: 'Moved' },
  { value: 'cancelled', label: 'Cancelled' },
  { value: 'no-show', label: 'Nobody came' },
] as const;
type Event = (typeof EVENTS)[number]['value'];

export default function CalendarForm({ connections, choices, create }: SourceFormProps) {
  const [connection, setConnection] = useState(firstOf(connections, 'booking_calendar'));
  const [which, setWhich] = useState<'all' | 'some'>('all');
  const [calendarIds, setCalendarIds] = useState<string[]>([]);
  const [events, setEvents] = useState<Event[]>(['booked']);
  const load = useCallback((q: string) => choices({ connection, q }), [choices, connection]);
  return (
    <SetupForm
      button="Listen to these calendars"
      ready={connection !== '' && events.length > 0 && (which === 'all' || calendarIds.length > 0)}
      create={create}
      input={() => ({
        kind: 'booking-calendar',
        connectionId: connection,
        calendarIds: which === 'all' ? [] : calendarIds,
        events,
      })}
    >
      <ConnectionChoice
        connections={connections}
        kind="booking_calendar"
        label="Booking calendar"
        value={connection}
        onChange={setConnection}
      />
      {connection !== '' && (
        <>
          <OneOf
            label="Listen to"
            value={which}
            options={[
              ['all', 'All calendars, also later ones'],
              ['some', 'These calendars'],
            ]}
            onChange={setWhich}
          />
          {which === 'some' && (
            <ChoicePicker
              label="Which calendars"
              what={`calendar of ${connection}`}
              load={load}
              several
              chosen={calendarIds}
              onChoose={({ id }) =>
                setCalendarIds((before) => (before.includes(id) ? before.filter((one) => one !== id) : [...before, id]))
              }
            />
          )}
          <EventChoice label="When an appointment is" options={EVENTS} value={events} onChange={setEvents} />
        </>
      )}
    </SetupForm>
  );
}
