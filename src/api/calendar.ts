import { z } from 'zod';
import {
  addAppointment,
  getWeek,
  giveBookings,
  importCalendar,
  makeFeed,
  NewAppointment,
  removeAppointment,
} from '../app/calendar/calendar.ts';
import {
  addOwnCalendar,
  calendarChoices,
  listOwnCalendars,
  NewOwnCalendar,
  removeOwnCalendar,
} from '../app/calendar/own-calendars.ts';
import { doors } from './route.ts';

const BookingsInto = z.object({ sourceId: z.uuid(), colleagueId: z.uuid().nullable() });

const { reads, takesFile, takes, writes, writesAlone } = doors('see-work', 'do-work');

export const calendarRoutes = [
  takesFile(
    '/calendar/:colleague',
    4 * 1024 * 1024,
    (use, file, { colleague }) => importCalendar(use, colleague, file),
    'build',
  ),
  writesAlone('DELETE', '/calendar/appointments/:appointment', (tx, { appointment }) =>
    removeAppointment(tx, appointment),
  ),
  writes('POST', '/calendar/appointments', NewAppointment, (tx, input) => addAppointment(tx, input)),
  writes(
    'PUT',
    '/calendar/bookings',
    BookingsInto,
    (tx, { sourceId, colleagueId }) => giveBookings(tx, sourceId, colleagueId),
    'build',
  ),
  writesAlone('POST', '/calendar/feed', (tx) => makeFeed(tx), 'own'),
  reads('/calendar/own/choices', (use, _, query) => calendarChoices(use, query.get('connection')), 'build'),
  reads('/calendar/own', (use) => listOwnCalendars(use), 'build'),
  takes('POST', '/calendar/own', NewOwnCalendar, (use, input) => addOwnCalendar(use, input), 'build'),
  writesAlone('DELETE', '/calendar/own/:calendar', (tx, { calendar }) => removeOwnCalendar(tx, calendar), 'build'),
  reads('/calendar', (use, _, query) => getWeek(use, query.get('week'))),
] as const;
