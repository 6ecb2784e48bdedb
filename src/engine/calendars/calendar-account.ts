import type { ConnectionSettings } from '../../db/entities/connection.ts';
import type { CalendarAccount } from '../../gateways/calendar-account.ts';

/** A stored connection as what a calendar is reached by. Where there is no user, its address is the secret: whoever knows it may read. */
export function calendarAccount(
  { address, user = '', authority }: ConnectionSettings,
  secret: string | null,
): CalendarAccount {
  return user === ''
    ? { address: secret ?? address, user, password: '', authority }
    : { address, user, password: secret ?? '', authority };
}
