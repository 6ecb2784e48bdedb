import { z } from 'zod';
import { SHIPPED } from '../../core/described/shipped/registry.ts';
import { type Field, storableText } from '../../core/fields/field.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceEntry, SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { ToldInstant } from '../../core/time/told-instant.ts';
import { readEvents, signedAsDescribed } from '../body/read-events.ts';

export const APPOINTMENT_EVENTS = ['booked', 'confirmed', 'moved', 'cancelled', 'no-show'] as const;
export type AppointmentEvent = (typeof APPOINTMENT_EVENTS)[number];

const Settings = z.object({
  connectionId: z.string(),
  /** Calendars listened to; null for all, also later ones. */
  calendars: z.array(z.object({ id: z.string(), name: z.string() })).nullable(),
  events: z.array(z.enum(APPOINTMENT_EVENTS)).min(1, 'Choose at least one thing to listen for'),
  /** Into whose calendar here they go; null for nobody's. */
  colleagueId: z.string().nullable().default(null),
  /** Nobody could be asked to tell us: somebody enters the address there by hand. */
  byHand: z.boolean().default(false),
});
export type CalendarSettings = z.infer<typeof Settings>;

/** What the description of a booking calendar reads of an event; core/described/meanings.ts has the words. */
const Happening = z.object({
  at: z.string().max(60).optional(),
  appointment: z.string().max(200),
  title: z.string().default(''),
  start: ToldInstant,
  end: ToldInstant,
  previous_start: ToldInstant.optional(),
  calendar: z.string().default(''),
  calendar_name: z.string().default(''),
  booked_by: z.string().default(''),
  name: z.string().default(''),
  email: z.string().default(''),
  phone: z.string().default(''),
  note: z.string().default(''),
});
const MEANT = ['booked', 'confirmed', 'moved', 'cancelled', 'missed'] as const;
/** Where their own desk did it, and not the customer. */
const DESK = /^(staff|desk|admin|host|owner|employee)$/i;

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
  describedAs: 'booking_calendar',
  signedBy: (_, hears = SHIPPED.booking_calendar.hears) => signedAsDescribed(hears),
  read: (raw, settings, hears = SHIPPED.booking_calendar.hears): Promise<SourceReading> =>
    readEvents(raw, hears, 'what a booking calendar sends', Happening, MEANT, (means, told) =>
      entryOf(means === 'missed' ? 'no-show' : means, told, settings),
    ),
};

function entryOf(
  event: AppointmentEvent,
  told: z.infer<typeof Happening>,
  settings: CalendarSettings,
): Omit<SourceEntry, 'externalId'> {
  const field = (key: string, label: string, value: string): Field => ({ key, label, value: storableText(value) });
  const byDesk = DESK.test(told.booked_by);
  const calendar = told.calendar_name || told.calendar;
  const fields = [
    field('name', 'Name', told.name),
    field('email', 'Email', told.email),
    field('phone', 'Phone', told.phone),
    field('event', 'What happened', event),
    field('appointment.title', 'Appointment', told.title),
    field('appointment.start', 'Appointment start', told.start),
    field('appointment.end', 'Appointment end', told.end),
    ...(told.previous_start ? [field('appointment.previous_start', 'Started before', told.previous_start)] : []),
    field('appointment.calendar', 'Calendar', calendar),
    field('appointment.booked_by', 'Booked by', byDesk ? 'the desk' : 'the customer'),
    field('appointment.note', 'Note', told.note),
    field('appointment.id', 'Appointment ID', told.appointment),
  ];
  const other = settings.calendars && !settings.calendars.some(({ id }) => id === told.calendar);
  const aside = other
    ? `Not listened to: the calendar "${calendar.slice(0, 80)}".`
    : settings.events.includes(event)
      ? null
      : `Not listened to: appointments ${event === 'no-show' ? 'that nobody came to' : event}.`;
  // What the desk does at night is no reason to write to them at night.
  const when = !byDesk && event !== 'no-show' ? doneAt(told.at) : { doneAt: null };
  return {
    ...{ fields, whereFrom: {}, ...when },
    ...(event === 'booked' || event === 'confirmed' ? { means: 'booked' as const } : {}),
    ...(aside === null ? {} : { aside }),
  };
}
