import { z } from 'zod';
import { SHIPPED } from '../../core/described/shipped/registry.ts';
import { type Field, labelFromKey, storableText } from '../../core/fields/field.ts';
import { orderLinesField } from '../../core/fields/order-lines.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceEntry, SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { findWhereFrom, whereFromUrl } from '../../core/source/where-from.ts';
import { otherForm, plainText, readEvents, signedAsDescribed } from '../body/read-events.ts';

export const FUNNEL_EVENTS = ['opt-in', 'purchase'] as const;

const Settings = z.object({
  connectionId: z.string(),
  stepId: z.string(),
  stepName: z.string(),
  funnelName: z.string(),
  events: z.array(z.enum(FUNNEL_EVENTS)).min(1, 'Choose at least one of opt-in and purchase'),
  /** Nobody could be asked to tell us: somebody enters the address there by hand. */
  byHand: z.boolean().default(false),
});
export type FunnelSettings = z.infer<typeof Settings>;

/** What the description of a funnel host reads of an event; core/described/meanings.ts has the words. */
const Happening = z.object({
  at: z.string().max(60).optional(),
  page: z.string().default(''),
  page_name: z.string().default(''),
  funnel: z.string().default(''),
  address: z.string().default(''),
  referrer: z.string().default(''),
  person: z.record(z.string().max(200), z.unknown()),
  order: z.string().optional(),
  currency: z.string().default(''),
  total: z.string().default(''),
  lines: z
    .array(z.object({ name: z.string(), quantity: z.string().default(''), price: z.string().default('') }))
    .max(500)
    .default([]),
});
const MEANT = ['opted_in', 'purchased'] as const;

/** A page of a funnel: somebody leaves their details there, or buys. */
export const funnel: SourceKind<FunnelSettings> = {
  kind: 'funnel',
  label: 'Funnel page',
  about: 'An opt-in or an order on a page of your funnels.',
  icon: 'filter',
  settings: Settings,
  brings: 'people',
  comesBy: 'hook',
  changeable: ['events'],
  contentType: 'application/json',
  describedAs: 'funnel_host',
  signedBy: (_, hears = SHIPPED.funnel_host.hears) => signedAsDescribed(hears),
  read: (raw, settings, hears = SHIPPED.funnel_host.hears): Promise<SourceReading> =>
    readEvents(raw, hears, 'what a funnel page sends', Happening, MEANT, (means, told) =>
      told.page !== '' && told.page !== settings.stepId
        ? otherForm(`This belongs to another page ("${told.page_name.slice(0, 80)}").`)
        : entryOf(means === 'opted_in' ? 'opt-in' : 'purchase', told, settings),
    ),
};

function entryOf(
  event: (typeof FUNNEL_EVENTS)[number],
  told: z.infer<typeof Happening>,
  settings: FunnelSettings,
): Omit<SourceEntry, 'externalId'> {
  const fields: Field[] = [
    ...Object.entries(told.person).map(([key, value]) => ({
      key: storableText(key),
      label: labelFromKey(storableText(key)),
      value: plainText(value),
    })),
    { key: 'event', label: 'What happened', value: event },
  ];
  if (told.order !== undefined)
    fields.push(
      { key: 'order.id', label: 'Order', value: told.order },
      { key: 'order.total', label: 'Order total', value: `${told.total} ${told.currency}`.trim() },
      orderLinesField(told.lines),
    );
  return {
    ...doneAt(told.at),
    ...(event === 'purchase' ? { means: 'bought' as const } : {}),
    fields,
    whereFrom: {
      ...findWhereFrom(fields),
      ...whereFromUrl(told.address),
      ...(told.referrer ? { referrer: told.referrer.slice(0, 500) } : {}),
      page: `${told.funnel || settings.funnelName}: ${told.page_name || settings.stepName}`.slice(0, 500),
    },
    ...(settings.events.includes(event) ? {} : { aside: `Not listened to: this source is not set to ${event}s.` }),
  };
}
