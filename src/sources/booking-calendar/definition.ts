import { z } from 'zod';
import { type Field, storableText } from '../../core/fields/field.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { ToldInstant } from '../../core/time/told-instant.ts';
import { readBodyAs } from '../body/read-body-as.ts';

export const APPOINTMENT_EVENTS = ['booked', 'confirmed', 'moved', 'cancelled', 'no-show'] as const;
export type AppointmentEvent = (typeof APPOINTMENT_EVENTS)[number];

const Settings = z.object({
  connectionId: z.string(),
  /** Calendars listened to; null for all, also later ones. */
  calendars: z.array(z.object({ id: z.string(), name: z.string() })).nullable(),
  events: z.array(z.enum(APPOINTMENT_EVENTS)).min(1, 'Choose at least one thing to listen for'),
  /** Into whose calendar here they go; null for nobody's. */
  colleagueId: z.string().nullable().default(null),
});
export type CalendarSettings = z.infer<typeof Settings>;

const Happening = z.object({
  at: z.string().max(60).optional(),
  type: z.enum(APPOINTMENT_EVENTS.map((event) => `appointment.${event}` as const)),
  id: z.string().min(1).max(200),
  appointment: z.object({
    id: z.string(),
    title: z.string().default(''),
    start: ToldInstant,
    end: ToldInstant,
    previousStart: ToldInstant.optional(),
    timeZone: z.string().default(''),
    bookedBy: z.enum(['self', 'staff']),
    calendar: z.object({ id: z.string(), name: z.string() }),
    person: z.object({ name: z.string().default(''), email: z.string().default(''), phone: z.string().default('') }),
    note: z.string().default(''),
  }),
});

/** Appointments in one or more calendars, whoever booked them. */
export const bookingCalendar: SourceKind<CalendarSettings> = {
  kind: 'booking-calendar',
  label: 'Booking calendar',
  about: 'Appointments booked, confirmed, moved, cancelled or missed.',
  icon: 'calendar-days',
  settings: Settings,
  brings: 'people',
  comesBy: 'hook',
  eachCounts: true,
  changeable: ['events'],
  contentType: 'application/json',
  signedBy: () => ({ way: 'standard-webhooks' }),
  read: async (raw, settings): Promise<SourceReading> => {
    const read = await readBodyAs(raw, Happening, 'what a booking calendar sends');
    if (!read.ok) return read;
    const { appointment, id, type } = read.data;
    const event = type.slice('appointment.'.length) as AppointmentEvent;
    const field = (key: string, label: string, value: string): Field => ({ key, label, value: storableText(value) });
    const fields = [
      field('name', 'Name', appointment.person.name),
      field('email', 'Email', appointment.person.email),
      field('phone', 'Phone', appointment.person.phone),
      field('event', 'What happened', event),
      field('appointment.title', 'Appointment', appointment.title),
      field('appointment.start', 'Appointment start', appointment.start),
      field('appointment.end', 'Appointment end', appointment.end),
      ...(appointment.previousStart
        ? [field('appointment.previous_start', 'Started before', appointment.previousStart)]
        : []),
      field('appointment.calendar', 'Calendar', appointment.calendar.name),
      field('appointment.booked_by', 'Booked by', appointment.bookedBy === 'self' ? 'the customer' : 'the desk'),
      field('appointment.note', 'Note', appointment.note),
      field('appointment.id', 'Appointment ID', appointment.id),
    ];
    const other = settings.calendars && !settings.calendars.some((calendar) => calendar.id === appointment.calendar.id);
    const aside = other
      ? `Not listened to: the calendar "${appointment.calendar.name.slice(0, 80)}".`
      : settings.events.includes(event)
        ? null
        : `Not listened to: appointments ${event === 'no-show' ? 'that nobody came to' : event}.`;
    const booked = event === 'booked' || event === 'confirmed';
    // What the desk does at night is no reason to write to them at night.
    const when = appointment.bookedBy === 'self' && event !== 'no-show' ? doneAt(read.data.at) : { doneAt: null };
    const entry = { externalId: id, fields, whereFrom: {}, ...when, ...(booked ? { means: 'booked' as const } : {}) };
    return { ok: true, entries: [{ ...entry, ...(aside === null ? {} : { aside }) }] };
  },
};
