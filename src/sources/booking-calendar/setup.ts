import { z } from 'zod';
import type { ServiceAccount, ServiceCaller } from '../../gateways/service.ts';
import { type SourceSetup, trouble } from '../source-module.ts';
import { type Hook, subscribe } from '../subscribe.ts';
import { APPOINTMENT_EVENTS, type CalendarSettings } from './definition.ts';

const WHAT = 'The booking calendar';
const Calendars = z.object({ calendars: z.array(z.object({ id: z.string(), name: z.string() })) });

const Input = z.object({
  connectionId: z.uuid('Choose a connection'),
  /** Empty for all calendars, also later ones. */
  calendarIds: z.array(z.string()).max(200),
  events: z.array(z.enum(APPOINTMENT_EVENTS)).min(1, 'Choose at least one thing to listen for'),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('This connection is not there any more. Choose another.');

const calendars = (services: ServiceCaller, account: ServiceAccount) =>
  services.ask(WHAT, account, 'GET', '/calendars', undefined, (body) => Calendars.parse(body).calendars);

const listen = (services: ServiceCaller, account: ServiceAccount, ids: string[] | null, hook: Hook) =>
  subscribe(services, WHAT, account, '', hook, { calendars: ids });

export const calendarSetup: SourceSetup<Input, CalendarSettings> = {
  input: Input,
  async choices(ports, ask) {
    const account = await ports.account(ask.connectionId);
    if (!account) return GONE;
    const found = await calendars(ports.services, account);
    if (!found.ok) return found;
    const wanted = ask.query.toLowerCase();
    const fits = found.value.filter((one) => one.name.toLowerCase().includes(wanted));
    return { ok: true, next: null, choices: fits.map(({ id, name }) => ({ id, label: name })) };
  },
  async prepare(ports, input, hook) {
    const account = await ports.account(input.connectionId);
    if (!account) return GONE;
    const found = await calendars(ports.services, account);
    if (!found.ok) return found;
    const chosen = found.value.filter((one) => input.calendarIds.includes(one.id));
    if (chosen.length < input.calendarIds.length)
      return trouble('One of these calendars is no longer there. Choose again.');
    const all = chosen.length === 0;
    const made = await listen(ports.services, account, all ? null : chosen.map(({ id }) => id), hook);
    if (!made.ok) return made;
    return {
      ok: true,
      name: all ? 'Bookings' : `Bookings: ${chosen.map(({ name }) => name).join(', ')}`.slice(0, 100),
      settings: {
        connectionId: input.connectionId,
        calendars: all ? null : chosen,
        events: input.events,
        colleagueId: null,
      },
    };
  },
  async repoint(ports, settings, hook) {
    const account = await ports.account(settings.connectionId);
    if (!account) return GONE;
    const made = await listen(ports.services, account, settings.calendars?.map(({ id }) => id) ?? null, hook);
    return made.ok ? { ok: true, settings } : made;
  },
};
