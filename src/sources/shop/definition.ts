import { z } from 'zod';
import { type Field, labelFromKey, storableText } from '../../core/fields/field.ts';
import { orderLinesField } from '../../core/fields/order-lines.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { readBodyAs } from '../body/read-body-as.ts';

export const SHOP_EVENTS = ['customer.created', 'order.created', 'order.updated'] as const;
export const SHOP_SIGNATURE = 'shop-signature';

const Settings = z.object({
  connectionId: z.string(),
  events: z.array(z.enum(SHOP_EVENTS)).min(1, 'Choose at least one thing to listen for'),
  /** For "order updated": only when it has come to one of these; empty for any. Compared without regard to case. */
  statuses: z.array(z.string().trim().min(1).max(60)).max(20).default([]),
  /** Off only where the shop cannot sign: then whoever knows the address can send. */
  signed: z.boolean().default(true),
});
export type ShopSettings = z.infer<typeof Settings>;

const Customer = z.object({
  id: z.string(),
  first_name: z.string().default(''),
  last_name: z.string().default(''),
  email: z.string().default(''),
  phone: z.string().default(''),
  accepts_marketing: z.boolean().optional(),
});
const Order = z.object({
  id: z.string(),
  number: z.union([z.number(), z.string()]),
  status: z.string(),
  currency: z.string().default(''),
  total: z.string().default(''),
  lines: z
    .array(z.object({ sku: z.string().optional(), name: z.string(), quantity: z.number(), price: z.string() }))
    .max(1000),
});
const Happening = z.object({
  at: z.string().max(60).optional(),
  event: z.enum(SHOP_EVENTS),
  id: z.string().min(1).max(200),
  customer: Customer,
  order: Order.optional(),
});

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
  signedBy: (settings) => (settings.signed ? { way: 'body-hmac', header: SHOP_SIGNATURE } : { way: 'nobody' }),
  read: async (raw, settings): Promise<SourceReading> => {
    const read = await readBodyAs(raw, Happening, 'what a shop sends');
    if (!read.ok) return read;
    const { event, id, customer, order } = read.data;
    const { accepts_marketing: agrees, ...person } = customer;
    const fields: Field[] = Object.entries(person).map(([key, value]) => ({
      key: key === 'id' ? 'customer_id' : key,
      label: key === 'id' ? 'Customer ID' : labelFromKey(key),
      value: storableText(value),
    }));
    if (agrees !== undefined)
      fields.push({ key: 'consent', label: 'Agrees to texts and email', value: agrees ? 'true' : 'false' });
    fields.push({ key: 'event', label: 'What happened', value: WORDS[event] });
    if (order)
      fields.push(
        { key: 'order.number', label: 'Order number', value: String(order.number) },
        { key: 'order.status', label: 'Order state', value: storableText(order.status) },
        { key: 'order.total', label: 'Order total', value: storableText(`${order.total} ${order.currency}`.trim()) },
        orderLinesField(order.lines),
      );
    const aside = notWanted(settings, event, order?.status ?? '');
    const entry = {
      externalId: id,
      fields,
      whereFrom: {},
      // An order that changes is changed by the shop.
      ...(event === 'order.updated' ? { doneAt: null } : doneAt(read.data.at)),
      ...(event === 'order.created' ? { means: 'bought' as const } : {}),
    };
    return { ok: true, entries: [{ ...entry, ...(aside === null ? {} : { aside }) }] };
  },
};

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
