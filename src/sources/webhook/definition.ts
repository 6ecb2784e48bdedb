import { z } from 'zod';
import { flatten } from '../../core/fields/flatten.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { findWhereFrom } from '../../core/source/where-from.ts';
import { readBody } from '../read-body.ts';

const Settings = z.object({
  /** When on, arrivals without a good Standard Webhooks signature are refused. */
  signed: z.boolean(),
});
type Settings = z.infer<typeof Settings>;

/** Any application that can post JSON or a form to an address. */
export const webhook: SourceKind<Settings> = {
  kind: 'webhook',
  label: 'Webhook',
  about: 'Any application that can send what it has to a web address.',
  icon: 'webhook',
  settings: Settings,
  mustBeSigned: (settings) => settings.signed,
  read: (raw): SourceReading => {
    const body = readBody(raw);
    if (!body.ok) return body;
    const flat = flatten(body.value);
    if (!flat.ok) return { ok: false, code: flat.problem, problem: TOO_MUCH[flat.problem] };
    if (flat.fields.length === 0)
      return { ok: false, code: 'empty', problem: 'There is nothing in it: send at least one field.' };
    const { headers } = raw;
    return {
      ok: true,
      entry: {
        // Standard Webhooks, CloudEvents (binary mode) and the Idempotency-Key draft each name the item in a header.
        externalId: headers['webhook-id'] ?? headers['ce-id'] ?? headers['idempotency-key'] ?? null,
        fields: flat.fields,
        whereFrom: findWhereFrom(flat.fields),
      },
    };
  },
};

const TOO_MUCH = {
  'too-deep': 'It is nested more than 12 levels deep. Send the fields less deeply nested.',
  'too-many': 'It has more than 300 fields. Send one lead at a time, with fewer fields.',
} as const;
