import { DESCRIPTION_FORMAT, DESCRIPTION_VERSION, type DescriptionFile } from '../description.ts';
import { ACCOUNT_ASKS, ACCOUNT_CALL } from './account.ts';
import { subscribeCall } from './subscribe-call.ts';

const READS = {
  at: { path: '$.at' },
  appointment: { path: '$.appointment.id' },
  title: { path: '$.appointment.title' },
  start: { path: '$.appointment.start' },
  end: { path: '$.appointment.end' },
  previous_start: { path: '$.appointment.previousStart' },
  calendar: { path: '$.appointment.calendar.id' },
  calendar_name: { path: '$.appointment.calendar.name' },
  booked_by: { path: '$.appointment.bookedBy' },
  name: { path: '$.appointment.person.name' },
  email: { path: '$.appointment.person.email' },
  phone: { path: '$.appointment.person.phone' },
  note: { path: '$.appointment.note' },
};

/** docs/gateways.md, "Booking calendar". */
export const bookingCalendar: DescriptionFile = {
  format: DESCRIPTION_FORMAT,
  version: DESCRIPTION_VERSION,
  name: 'Booking calendar',
  about: 'Appointments by the API of docs/gateways.md: calendars to choose from, told of each change, signed.',
  asks: ACCOUNT_ASKS,
  address: '{{ account.address }}',
  signIn: { way: 'bearer', token: '{{ account.key }}' },
  calls: {
    account: ACCOUNT_CALL,
    calendars: {
      method: 'GET',
      path: '/calendars',
      again: 'harmless',
      reason: ['$.detail', '$.title'],
      items: '$.calendars',
      reads: { id: { path: '$.id' }, name: { path: '$.name' } },
    },
    subscribe: subscribeCall('/subscriptions', { name: 'calendars', value: '{{ given.calendars }}', as: 'whole' }),
  },
  hears: {
    signed: { way: 'standard-webhooks' },
    kind: '$.type',
    id: '$.id',
    others: 'refuse',
    kinds: [
      { is: ['appointment.booked'], means: 'booked', reads: READS },
      { is: ['appointment.confirmed'], means: 'confirmed', reads: READS },
      { is: ['appointment.moved'], means: 'moved', reads: READS },
      { is: ['appointment.cancelled'], means: 'cancelled', reads: READS },
      { is: ['appointment.no-show'], means: 'missed', reads: READS },
    ],
  },
};
