import { z } from 'zod';
import { type SourceSetup, trouble } from '../source-module.ts';
import { subscribe } from '../subscribe.ts';
import { SHOP_EVENTS, type ShopSettings } from './definition.ts';

const Input = z.object({
  connectionId: z.uuid('Choose a connection'),
  events: z.array(z.enum(SHOP_EVENTS)).min(1, 'Choose at least one thing to listen for'),
  statuses: z.array(z.string()).max(20).default([]),
  signed: z.boolean().default(true),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('This connection is not there any more. Choose another.');

export const shopSetup: SourceSetup<Input, ShopSettings> = {
  input: Input,
  async prepare(ports, input, hook) {
    const account = await ports.describedAccount(input.connectionId);
    if (!account) return GONE;
    const made = await subscribe(ports, account, hook, { events: SHOP_EVENTS });
    if (!made.ok) return made;
    const { connectionId, events, statuses, signed } = input;
    return { ok: true, name: 'Shop', settings: { connectionId, events, statuses, signed, byHand: made.byHand } };
  },
  async repoint(ports, settings, hook) {
    const account = await ports.describedAccount(settings.connectionId);
    if (!account) return GONE;
    const made = await subscribe(ports, account, hook, { events: SHOP_EVENTS });
    return made.ok ? { ok: true, settings: { ...settings, byHand: made.byHand } } : made;
  },
};
