import { storableText } from '../fields/field.ts';
import type { HEARD_MEANINGS, Hears } from './description.ts';
import { valuesAt } from './paths.ts';
import { type ReadValues, readValues, textAt } from './read.ts';

export interface HeardEvent {
  /** Null for a kind that is not named. */
  means: (typeof HEARD_MEANINGS)[number] | null;
  /** By which a repeat is known; empty when it says none. */
  id: string;
  kind: string;
  values: ReadValues;
  /** The event itself. */
  raw: unknown;
}

export type Events = { ok: true; events: HeardEvent[] } | { ok: false; problem: string };

/** Most events of one call. */
const MOST = 500;

/** The events in what a service sent, once it is data. */
export function eventsIn(hears: Hears, data: unknown): Events {
  const all = hears.events === '' ? [data] : valuesAt(hears.events, data).flat();
  if (all.length > MOST) return { ok: false, problem: `More than ${MOST} events at once are not taken.` };
  const events = all.map((raw) => eventOf(hears, raw));
  const strange = hears.others === 'refuse' ? events.find(({ means }) => means === null) : undefined;
  return strange
    ? {
        ok: false,
        problem: `Nothing is known of events like “${strange.kind.slice(0, 60)}”; docs/gateways.md says what is expected.`,
      }
    : { ok: true, events };
}

function eventOf(hears: Hears, raw: unknown): HeardEvent {
  const kind = textAt(hears.kind, raw);
  const found = hears.kinds.find(({ is }) => is.includes(kind)) ?? hears.kinds.find(({ is }) => is.length === 0);
  const id = storableText(textAt(hears.id, raw)).slice(0, 200);
  if (!found) return { means: null, id, kind, values: {}, raw };
  return { means: found.means, id, kind, values: readValues(found.reads, raw), raw };
}
