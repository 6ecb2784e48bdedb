import { z } from 'zod';
import type { ServiceAccount, ServiceCaller } from '../../gateways/service.ts';
import { type SourceSetup, trouble } from '../source-module.ts';
import { type Hook, subscribe } from '../subscribe.ts';
import { SHOP_EVENTS, type ShopSettings } from './definition.ts';

const Input = z.object({
  connectionId: z.uuid('Choose a connection'),
  events: z.array(z.enum(SHOP_EVENTS)).min(1, 'Choose at least one thing to listen for'),
  statuses: z.array(z.string()).max(20).default([]),
  signed: z.boolean().default(true),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('This connection is not there any more. Choose another.');

const listen = (services: ServiceCaller, account: ServiceAccount, hook: Hook) =>
  subscribe(services, 'The shop', account, '', hook, { events: SHOP_EVENTS });

export const shopSetup: SourceSetup<Input, ShopSettings> = {
  input: Input,
  async prepare(ports, input, hook) {
    const account = await ports.account(input.connectionId);
    if (!account) return GONE;
    const made = await listen(ports.services, account, hook);
    if (!made.ok) return made;
    const { connectionId, events, statuses, signed } = input;
    return { ok: true, name: 'Shop', settings: { connectionId, events, statuses, signed } };
  },
  async repoint(ports, settings, hook) {
    const account = await ports.account(settings.connectionId);
    if (!account) return GONE;
    const made = await listen(ports.services, account, hook);
    return made.ok ? { ok: true, settings } : made;
  },
};
