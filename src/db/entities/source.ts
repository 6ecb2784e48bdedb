import { defineEntity, type InferEntity, p } from '@mikro-orm/core';
import type { Field } from '../../core/fields/field.ts';
import type { LeadCard } from '../../core/source/lead-card.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { Business } from './business.ts';
import { Lead } from './lead.ts';
import { PRESENT } from './present.ts';

/** Where arrivals come from. `waiting` until its lead card has been confirmed. */
export const Source = defineEntity({
  name: 'Source',
  tableName: 'source',
  indexes: [{ name: 'source_business', properties: ['business'] }],
  filters: { present: PRESENT },
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    kind: p.string(),
    name: p.string(),
    /** Where it is kept among others; empty for none. */
    folder: p.string().length(60).default(''),
    /** The unguessable part of the address it listens on. */
    key: p.string().unique(),
    settings: p.json<Record<string, unknown>>(),
    card: p.json<LeadCard>(),
    cardConfirmed: p.boolean().default(false),
    /** Sealed; signs what comes in. */
    secret: p.text().nullable(),
    state: p.enum(['waiting', 'live', 'paused']),
    /** Arrivals taken in a minute; what is above is turned away with 429. */
    mostPerMinute: p.integer().default(600),
    createdAt: p.datetime(),
    /** Since when it is gone for everybody but its history. */
    removedAt: p.datetime().nullable(),
  },
});
export type ISource = InferEntity<typeof Source>;

/** One incoming item exactly as received, kept as evidence for as long as the business says. */
export const Arrival = defineEntity({
  name: 'Arrival',
  tableName: 'arrival',
  indexes: [
    { name: 'arrival_source_at', properties: ['source', 'receivedAt'] },
    { name: 'arrival_business_at', properties: ['business', 'receivedAt'] },
    { name: 'arrival_lead', properties: ['lead'] },
    {
      name: 'arrival_not_read',
      expression: `create index "arrival_not_read" on "arrival" ("source_id", "received_at") where ("state" <> 'read')`,
    },
    {
      name: 'arrival_external',
      expression:
        'create unique index "arrival_external" on "arrival" ("source_id", "external_id") where "external_id" is not null',
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    source: () => p.manyToOne(Source).ref(),
    externalId: p.text().nullable(),
    receivedAt: p.datetime(),
    /** As it was sent; empty once it is packed or kept no more. */
    headers: p.json<Record<string, string>>(),
    body: p.blob(),
    /** The pack it was put into; all zeros when it is kept no more. Null while it stands here. */
    keptIn: p.uuid().nullable(),
    fields: p.json<Field[]>(),
    whereFrom: p.json<WhereFrom>(),
    /**
     * `read` became a lead; `refused` was not understood; `held` came while the source was paused or not set up; `aside` was
     * understood and kept out, with the reason in `problem`.
     */
    state: p.enum(['read', 'refused', 'held', 'aside']),
    problem: p.text().nullable(),
    /** What it means for a run under way that ends early by it. */
    means: p.enum(['booked', 'bought']).nullable(),
    lead: () => p.manyToOne(Lead).ref().nullable(),
    /** How often the sender repeated the same item. */
    repeats: p.integer().default(0),
  },
});

/**
 * When and from where a pulled source goes on. The row is its own queue entry: a process claims it for a while, and writes the
 * cursor in the transaction that stores what was pulled.
 */
export const Pull = defineEntity({
  name: 'Pull',
  tableName: 'pull',
  indexes: [{ name: 'pull_next', properties: ['nextAt'] }],
  properties: {
    source: () => p.oneToOne(Source).ref().primary().owner(),
    /** How far has been read; its shape is the kind's own. */
    cursor: p.json<unknown>().nullable(),
    everyMinutes: p.integer(),
    nextAt: p.datetime(),
    leaseBy: p.text().nullable(),
    leaseUntil: p.datetime().nullable(),
    lastOkAt: p.datetime().nullable(),
    failures: p.integer().default(0),
    /** Since when it has not answered; null while all is well. */
    troubleSince: p.datetime().nullable(),
    problem: p.text().nullable(),
    /** What was there already at the start and is being fetched, oldest first. */
    backlog: p.json<{ total: number; done: number } | null>().nullable(),
    /** What the service still holds for us, and until when. */
    unfetched: p.json<{ count: number; firstExpiresAt: string | null } | null>().nullable(),
  },
});
export type IPull = InferEntity<typeof Pull>;
