import { z } from 'zod';
import { FIELD_LIMITS, type Field, labelFromKey, storableText } from '../../core/fields/field.ts';
import { orderLinesField } from '../../core/fields/order-lines.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { findWhereFrom, whereFromUrl } from '../../core/source/where-from.ts';
import { readBodyAs } from '../body/read-body-as.ts';

export const FUNNEL_EVENTS = ['opt-in', 'purchase'] as const;

const Settings = z.object({
  connectionId: z.string(),
  stepId: z.string(),
  stepName: z.string(),
  funnelName: z.string(),
  events: z.array(z.enum(FUNNEL_EVENTS)).min(1, 'Choose at least one of opt-in and purchase'),
});
export type FunnelSettings = z.infer<typeof Settings>;

const Line = z.object({ product: z.string(), quantity: z.number().int(), price: z.string() });
const Happening = z.object({
  at: z.string().max(60).optional(),
  type: z.enum(['funnel.opt-in', 'funnel.purchase']),
  id: z.string().min(1).max(200),
  funnel: z.object({ id: z.string(), name: z.string() }),
  step: z.object({ id: z.string(), name: z.string() }),
  visit: z.object({ address: z.string(), referrer: z.string() }).partial().optional(),
  person: z.record(z.string().max(200), z.string().max(FIELD_LIMITS.length)),
  order: z
    .object({ id: z.string(), currency: z.string(), total: z.string(), lines: z.array(Line).max(500) })
    .optional(),
});

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
  signedBy: () => ({ way: 'standard-webhooks' }),
  read: async (raw, settings): Promise<SourceReading> => {
    const read = await readBodyAs(raw, Happening, 'what a funnel page sends');
    if (!read.ok) return read;
    const { data } = read;
    if (data.step.id !== settings.stepId)
      return {
        ok: false,
        code: 'other-form',
        problem: `This belongs to another page ("${data.step.name.slice(0, 80)}").`,
      };
    const event = data.type === 'funnel.opt-in' ? 'opt-in' : 'purchase';
    const fields: Field[] = [
      ...Object.entries(data.person).map(([key, value]) => ({
        key: storableText(key),
        label: labelFromKey(storableText(key)),
        value: storableText(value),
      })),
      { key: 'event', label: 'What happened', value: event },
    ];
    if (data.order)
      fields.push(
        { key: 'order.id', label: 'Order', value: storableText(data.order.id) },
        { key: 'order.total', label: 'Order total', value: `${data.order.total} ${data.order.currency}` },
        orderLinesField(data.order.lines.map((line) => ({ ...line, name: line.product }))),
      );
    return {
      ok: true,
      entries: [
        {
          externalId: data.id,
          ...doneAt(data.at),
          ...(event === 'purchase' ? { means: 'bought' as const } : {}),
          fields,
          whereFrom: {
            ...findWhereFrom(fields),
            ...whereFromUrl(data.visit?.address ?? ''),
            ...(data.visit?.referrer ? { referrer: storableText(data.visit.referrer).slice(0, 500) } : {}),
            page: `${data.funnel.name}: ${data.step.name}`.slice(0, 500),
          },
          ...(settings.events.includes(event)
            ? {}
            : { aside: `Not listened to: this source is not set to ${event}s.` }),
        },
      ],
    };
  },
};
