import { z } from 'zod';
import { flatten } from '../../core/fields/flatten.ts';
import type {
  RawArrival,
  SourceEntry,
  SourceKind,
  SourceProblem,
  SourceReading,
} from '../../core/source/source-kind.ts';
import { findWhereFrom } from '../../core/source/where-from.ts';
import { readBody } from '../body/read-body.ts';

const Settings = z.object({
  /** When on, arrivals without a good Standard Webhooks signature are refused. */
  signed: z.boolean(),
  /** Whether a list in the body is several leads or one. */
  lists: z.enum(['each', 'whole']).default('each'),
});
export type WebhookSettings = z.infer<typeof Settings>;

/** Most items of one list taken as arrivals of their own. */
const MOST_ITEMS = 500;

/** Any application that can post JSON, XML or a form to an address. */
export const webhook: SourceKind<WebhookSettings> = {
  kind: 'webhook',
  label: 'Webhook',
  about: 'Any application that can send what it has to a web address.',
  icon: 'webhook',
  settings: Settings,
  brings: 'people',
  comesBy: 'hook',
  changeable: ['signed', 'lists'],
  signedBy: (settings) => ({ way: settings.signed ? 'standard-webhooks' : 'nobody' }),
  read: async (raw, settings): Promise<SourceReading> => {
    const body = await readBody(raw);
    if (!body.ok) return body;
    const parts = settings.lists === 'each' ? listOf(body.value) : null;
    if (parts && parts.length > MOST_ITEMS)
      return { ok: false, code: 'too-many', problem: `The list has more than ${MOST_ITEMS} items. Send it in parts.` };
    const entries: SourceEntry[] = [];
    for (const [i, part] of (parts ?? [body.value]).entries()) {
      const entry = entryOf(raw, part, parts ? i : null);
      if ('problem' in entry)
        return parts
          ? { ...entry, problem: `Item ${i + 1} of the list: ${entry.problem} Nothing of it was taken.` }
          : entry;
      entries.push(entry);
    }
    return { ok: true, entries };
  },
};

/** A list of objects: each may be a lead of its own. */
function listOf(value: unknown): object[] | null {
  if (!Array.isArray(value) || value.length === 0) return null;
  return value.every((item) => item !== null && typeof item === 'object' && !Array.isArray(item)) ? value : null;
}

function entryOf(raw: RawArrival, value: unknown, index: number | null): SourceEntry | SourceProblem {
  const flat = flatten(value);
  if (!flat.ok) return { ok: false, code: flat.problem, problem: TOO_MUCH[flat.problem] };
  if (flat.fields.length === 0)
    return { ok: false, code: 'empty', problem: 'There is nothing in it: send at least one field.' };
  const { headers } = raw;
  // Standard Webhooks, CloudEvents (binary mode) and the Idempotency-Key draft each name the item in a header.
  const id = headers['webhook-id'] ?? headers['ce-id'] ?? headers['idempotency-key'] ?? null;
  return {
    externalId: id === null || index === null ? id : `${id}#${index + 1}`,
    fields: flat.fields,
    whereFrom: findWhereFrom(flat.fields),
    ...(index === null ? {} : { part: Buffer.from(JSON.stringify(value), 'utf8') }),
  };
}

const TOO_MUCH = {
  'too-deep': 'It is nested more than 12 levels deep. Send the fields less deeply nested.',
  'too-many': 'It has more than 300 fields. Send one lead at a time, with fewer fields.',
} as const;
