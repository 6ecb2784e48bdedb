import { z } from 'zod';
import { SHIPPED } from '../../core/described/shipped/registry.ts';
import { type Field, storableText } from '../../core/fields/field.ts';
import { orderLinesField } from '../../core/fields/order-lines.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceEntry, SourceKind, SourceProblem, SourceReading } from '../../core/source/source-kind.ts';
import { readEvents, signedAsDescribed } from '../body/read-events.ts';

export const SHOP_EVENTS = ['customer.created', 'order.created', 'order.updated'] as const;

const Settings = z.object({
  connectionId: z.string(),
  events: z.array(z.enum(SHOP_EVENTS)).min(1, 'Choose at least one thing to listen for'),
  /** For "order updated": only when it has come to one of these; empty for any. Compared without regard to case. */
  statuses: z.array(z.string().trim().min(1).max(60)).max(20).default([]),
  /** Off only where the shop cannot sign: then whoever knows the address can send. */
  signed: z.boolean().default(true),
  /** Nobody could be asked to tell us: somebody enters the address there by hand. */
  byHand: z.boolean().default(false),
});
export type ShopSettings = z.infer<typeof Settings>;

/** What the description of a shop reads of an event; core/described/meanings.ts has the words. */
const Happening = z.object({
  at: z.string().max(60).optional(),
  customer: z.string().default(''),
  first_name: z.string().default(''),
  last_name: z.string().default(''),
  email: z.string().default(''),
  phone: z.string().default(''),
  agrees: z.string().optional(),
  number: z.string().optional(),
  status: z.string().default(''),
  currency: z.string().default(''),
  total: z.string().default(''),
  lines: z
    .array(
      z.object({
        name: z.string(),
        quantity: z.string().default(''),
        price: z.string().default(''),
        sku: z.string().optional(),
      }),
    )
    .max(1000)
    .default([]),
});
const MEANT = { customer: 'customer.created', ordered: 'order.created', order_changed: 'order.updated' } as const;
const KNOWN = Object.keys(MEANT) as (keyof typeof MEANT)[];
const YES = /^(true|yes|1|subscribed)$/i;

/** A shop: new customers, new orders, and orders that change. */
export const shop: SourceKind<ShopSettings> = {
  kind: 'shop',
  label: 'Shop',
  about: 'New customers and orders of your online shop, and orders that change.',
  icon: 'shopping-bag',
  settings: Settings,
  brings: 'people',
  comesBy: 'hook',
  eachCounts: true,
  changeable: ['events', 'statuses', 'signed'],
  contentType: 'application/json',
  describedAs: 'shop',
  signedBy: (settings, hears = SHIPPED.shop.hears) => (settings.signed ? signedAsDescribed(hears) : { way: 'nobody' }),
  read: (raw, settings, hears = SHIPPED.shop.hears): Promise<SourceReading> =>
    readEvents(raw, hears, 'what a shop sends', Happening, KNOWN, (means, told) =>
      entryOf(MEANT[means], told, settings),
    ),
};

function entryOf(
  event: (typeof SHOP_EVENTS)[number],
  told: z.infer<typeof Happening>,
  settings: ShopSettings,
): Omit<SourceEntry, 'externalId'> | SourceProblem {
  const field = (key: string, label: string, value: string): Field => ({ key, label, value: storableText(value) });
  const { number, agrees } = told;
  const lacking = [told.customer, told.email, told.phone].every((one) => one === '')
    ? 'it does not say which customer: neither their name there nor an email or a phone number'
    : event !== 'customer.created' && number === undefined
      ? 'it does not say the number of the order'
      : null;
  if (lacking) return { ok: false, code: 'shape', problem: `This is not what a shop sends: ${lacking}.` };
  const fields = [
    field('customer_id', 'Customer ID', told.customer),
    field('first_name', 'First name', told.first_name),
    field('last_name', 'Last name', told.last_name),
    field('email', 'Email', told.email),
    field('phone', 'Phone', told.phone),
  ];
  if (agrees !== undefined)
    fields.push(field('consent', 'Agrees to texts and email', YES.test(agrees) ? 'true' : 'false'));
  fields.push(field('event', 'What happened', WORDS[event]));
  if (number !== undefined)
    fields.push(
      field('order.number', 'Order number', number),
      field('order.status', 'Order state', told.status),
      field('order.total', 'Order total', `${told.total} ${told.currency}`.trim()),
      orderLinesField(told.lines),
    );
  const aside = notWanted(settings, event, told.status);
  return {
    fields,
    whereFrom: {},
    // An order that changes is changed by the shop.
    ...(event === 'order.updated' ? { doneAt: null } : doneAt(told.at)),
    ...(event === 'order.created' ? { means: 'bought' as const } : {}),
    ...(aside === null ? {} : { aside }),
  };
}

const WORDS: Record<(typeof SHOP_EVENTS)[number], string> = {
  'customer.created': 'customer created',
  'order.created': 'order created',
  'order.updated': 'order updated',
};

function notWanted(settings: ShopSettings, event: (typeof SHOP_EVENTS)[number], status: string): string | null {
  if (!settings.events.includes(event)) return `Not listened to: ${WORDS[event]}.`;
  const wanted = settings.statuses.map((status) => status.toLowerCase());
  if (event === 'order.updated' && wanted.length > 0 && !wanted.includes(status.trim().toLowerCase()))
    return `Not listened to: orders that become "${status.slice(0, 60)}".`;
  return null;
}
