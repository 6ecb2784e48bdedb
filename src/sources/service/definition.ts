import { z } from 'zod';
import { type Field, labelFromKey, storableText } from '../../core/fields/field.ts';
import { flatten } from '../../core/fields/flatten.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { findWhereFrom } from '../../core/source/where-from.ts';
import { readBodyAs } from '../body/read-body-as.ts';

const Settings = z.object({
  connectionId: z.string(),
  /** Fetched on a schedule, or told by the service itself. */
  way: z.enum(['fetch', 'push']),
  /** Which of the things that are fetched: a key of the description. Empty for what is told. */
  what: z.string().max(60),
  label: z.string().max(100),
});
export type ServiceSourceSettings = z.infer<typeof Settings>;

/** One thing a described service told or gave: what the description reads of it, and the whole of it. */
export const ServiceItem = z.object({
  id: z.string().max(300),
  kind: z.string().max(200).default(''),
  values: z.record(z.string(), z.unknown()),
  item: z.unknown(),
});
export type ServiceItem = z.infer<typeof ServiceItem>;

/** People and what they did, from a service the business has described itself. */
export const serviceSource: SourceKind<ServiceSourceSettings> = {
  kind: 'service',
  label: 'A service of your own',
  about: 'New contacts, enquiries or events of any service you have connected by a description.',
  icon: 'database',
  settings: Settings,
  brings: 'people',
  comesBy: 'reported',
  changeable: [],
  contentType: 'application/json',
  signedBy: () => ({ way: 'nobody' }),
  read: async (raw): Promise<SourceReading> => {
    const read = await readBodyAs(raw, ServiceItem, 'what a described service gives');
    if (!read.ok) return read;
    const { id, kind, values, item } = read.data;
    const flat = flatten(item);
    if (!flat.ok)
      return {
        ok: false,
        code: flat.problem,
        problem: 'What the service gave has more than 300 fields, or is nested more than 12 deep.',
      };
    const named: Field[] = Object.entries(values)
      .filter(([key, value]) => key !== 'id' && key !== 'at' && typeof value === 'string' && value !== '')
      .map(([key, value]) => ({ key, label: labelFromKey(key), value: storableText(String(value)) }));
    const known = new Set(named.map(({ key }) => key));
    const fields = [...named, ...flat.fields.filter(({ key }) => !known.has(key))].slice(0, 300);
    if (kind) fields.push({ key: 'event_kind', label: 'What happened', value: storableText(kind) });
    if (fields.length === 0) return { ok: false, code: 'empty', problem: 'There is nothing in it.' };
    const at = typeof values.at === 'string' && values.at !== '' ? values.at : undefined;
    return {
      ok: true,
      entries: [{ externalId: id || null, fields, whereFrom: findWhereFrom(fields), ...(at ? doneAt(at) : {}) }],
    };
  },
};
