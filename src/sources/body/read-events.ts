import type { z } from 'zod';
import type { Hears } from '../../core/described/description.ts';
import { eventsIn, type HeardEvent } from '../../core/described/events.ts';
import type { Meaning } from '../../core/described/meanings.ts';
import { storableText } from '../../core/fields/field.ts';
import { flatten } from '../../core/fields/flatten.ts';
import { readAs } from '../../core/read-as.ts';
import type { RawArrival, SignedBy, SourceEntry, SourceProblem, SourceReading } from '../../core/source/source-kind.ts';
import { readBody } from './read-body.ts';
import { shapeProblem } from './shape-problem.ts';

/** How what a described service sends is signed. One that says nothing of what it sends is not listened to, whoever signs. */
export const signedAsDescribed = (hears: Hears | null): SignedBy =>
  hears === null || hears.signed.way === 'address' ? { way: 'nobody' } : { way: 'described', hears };

/**
 * Reads a body by the description of the service it came from: each event whose meaning is one of ours becomes an entry by `entry`; what means nothing
 * to us is kept aside. `what` names it where it is not: "what a shop sends".
 */
export async function readEvents<Schema extends z.ZodType, Known extends Meaning>(
  raw: RawArrival,
  hears: Hears | null,
  what: string,
  schema: Schema,
  known: readonly Known[],
  entry: (means: Known, values: z.infer<Schema>) => Omit<SourceEntry, 'externalId'> | SourceProblem,
): Promise<SourceReading> {
  if (hears === null)
    return { ok: false, code: 'shape', problem: 'The description of this service says nothing of what it tells us.' };
  const body = await readBody(raw);
  if (!body.ok) return body;
  const several = eventsIn(hears, body.value);
  // One that came with others was kept by itself.
  const told =
    several.ok && several.events.length === 0 && hears.events !== ''
      ? eventsIn({ ...hears, events: '' }, body.value)
      : several;
  if (!told.ok || told.events.length === 0)
    return {
      ok: false,
      code: 'shape',
      problem: `This is not ${what}. ${told.ok ? 'There is nothing in it.' : told.problem}`,
    };
  const entries: SourceEntry[] = [];
  for (const event of told.events) {
    const externalId = event.id || plainText(event.values.id).slice(0, 200) || null;
    const means = known.find((one) => one === event.means);
    if (means === undefined) {
      entries.push({
        externalId,
        fields: [],
        whereFrom: {},
        aside: `Not listened to: events like “${event.kind.slice(0, 60)}”.`,
      });
      continue;
    }
    const read = understood(event, schema, what);
    if (!read.ok) return read;
    const made = entry(means, read.data);
    if ('ok' in made) return made;
    entries.push({
      externalId,
      ...made,
      ...(told.events.length === 1 ? {} : { part: Buffer.from(JSON.stringify(event.raw), 'utf8') }),
    });
  }
  return { ok: true, entries };
}

/** What stands in an event; what is empty there is not there. */
function understood<Schema extends z.ZodType>(
  { values, id }: HeardEvent,
  schema: Schema,
  what: string,
): { ok: true; data: z.infer<Schema> } | SourceProblem {
  const there = Object.fromEntries(Object.entries(values).filter(([, value]) => value !== '' && value !== null));
  const read = readAs(schema, { ...there, ...(id === '' ? {} : { id }) });
  return read.success ? { ok: true, data: read.data } : shapeProblem(what, read.error);
}

/** It is of another form or page than the source listens to. */
export const otherForm = (problem: string): SourceProblem => ({ ok: false, code: 'other-form', problem });

/** A value of any shape as one text: of lists and fields, what stands in them. */
export function plainText(value: unknown): string {
  if (value === undefined || value === null) return '';
  if (typeof value !== 'object') return storableText(String(value));
  const flat = flatten(value);
  return flat.ok ? storableText(flat.fields.map((field) => field.value).join(', ')) : '';
}
