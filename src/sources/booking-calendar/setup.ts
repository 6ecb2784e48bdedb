import { z } from 'zod';
import type { DescribedAccount } from '../../gateways/described/described-caller.ts';
import { askService, hasCall } from '../ask-service.ts';
import { type SourcePorts, type SourceSetup, type Trouble, trouble } from '../source-module.ts';
import { subscribe } from '../subscribe.ts';
import { APPOINTMENT_EVENTS, type CalendarSettings } from './definition.ts';

const Input = z.object({
  connectionId: z.uuid('Choose a connection'),
  /** Empty for all calendars, also later ones. */
  calendarIds: z.array(z.string()).max(200),
  events: z.array(z.enum(APPOINTMENT_EVENTS)).min(1, 'Choose at least one thing to listen for'),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('This connection is not there any more. Choose another.');

/** Most pages of calendars that are asked for. */
const MOST_PAGES = 20;

/** All there are; none where the description has no call for them. */
async function calendars(
  ports: SourcePorts,
  account: DescribedAccount,
): Promise<{ ok: true; found: { id: string; name: string }[] } | Trouble> {
  const found: { id: string; name: string }[] = [];
  let ask: Record<string, string> = {};
  for (let page = 0; hasCall(account, 'calendars') && page < MOST_PAGES; page++) {
    const got = await askService(ports, account, 'calendars', ask);
    if (!got.ok) return got;
    for (const { id, name } of got.items) if (id) found.push({ id: String(id), name: String(name || id) });
    if (!got.next || got.items.length === 0) break;
    ask = got.next;
  }
  return { ok: true, found };
}

export const calendarSetup: SourceSetup<Input, CalendarSettings> = {
  input: Input,
  async choices(ports, ask) {
    const account = await ports.describedAccount(ask.connectionId);
    if (!account) return GONE;
    const found = await calendars(ports, account);
    if (!found.ok) return found;
    const wanted = ask.query.toLowerCase();
    const fits = found.found.filter((one) => one.name.toLowerCase().includes(wanted));
    return { ok: true, next: null, choices: fits.map(({ id, name }) => ({ id, label: name })) };
  },
  async prepare(ports, input, hook) {
    const account = await ports.describedAccount(input.connectionId);
    if (!account) return GONE;
    const found = await calendars(ports, account);
    if (!found.ok) return found;
    const chosen = found.found.filter((one) => input.calendarIds.includes(one.id));
    if (chosen.length < input.calendarIds.length)
      return trouble('One of these calendars is no longer there. Choose again.');
    const all = chosen.length === 0;
    const made = await subscribe(ports, account, hook, { calendars: all ? null : chosen.map(({ id }) => id) });
    if (!made.ok) return made;
    return {
      ok: true,
      name: all ? 'Bookings' : `Bookings: ${chosen.map(({ name }) => name).join(', ')}`.slice(0, 100),
      settings: {
        connectionId: input.connectionId,
        calendars: all ? null : chosen,
        events: input.events,
        colleagueId: null,
        byHand: made.byHand,
      },
    };
  },
  async repoint(ports, settings, hook) {
    const account = await ports.describedAccount(settings.connectionId);
    if (!account) return GONE;
    const made = await subscribe(ports, account, hook, {
      calendars: settings.calendars?.map(({ id }) => id) ?? null,
    });
    return made.ok ? { ok: true, settings: { ...settings, byHand: made.byHand } } : made;
  },
};
