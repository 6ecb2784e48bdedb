import { defineEntity, p } from '@mikro-orm/core';
import { SAID_BY } from '../../core/consent/precedence.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { CHANNELS } from '../../core/workflow/channel.ts';
import { PURPOSES } from '../../core/workflow/purpose.ts';
import { Business } from './business.ts';
import { Arrival } from './source.ts';

/*
 * Tables written for every lead carry no foreign key to what cannot go away while they stand (the business, the arrival of the
 * same transaction): each one costs a look-up per row. They keep the one to their lead, which can be merged or erased.
 */

export const Lead = defineEntity({
  name: 'Lead',
  tableName: 'lead',
  indexes: [
    {
      name: 'lead_people',
      expression: `create index "lead_people" on "lead" ("business_id", "last_arrival_at", "id") where "is_person"`,
    },
    { name: 'lead_created', properties: ['business', 'createdAt'] },
    {
      name: 'lead_found_by',
      expression: `create index "lead_found_by" on "lead" using gin ("found_by" gin_trgm_ops)`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    firstName: p.text(),
    lastName: p.text(),
    email: p.text(),
    phone: p.text(),
    /** The newest answer to each question, by key. */
    answers: p.json<Record<string, string>>(),
    /** Fields of the business's own, by key: what a step or a colleague has given them, and no source can change. */
    own: p.json<Record<string, string>>().defaultRaw(`'{}'`),
    /** What a search looks in: name and address folded, the digits of the number. Made by the database. */
    foundBy: p
      .text()
      .nullable()
      .generated(
        `(folded("first_name" || ' ' || "last_name" || ' ' || "email") || ' ' || regexp_replace("phone", '[^0-9]', '', 'g')) stored`,
      ),
    createdAt: p.datetime(),
    lastArrivalAt: p.datetime(),
    /** The colleague who looks after them. */
    ownerId: p.uuid().nullable(),
    /** False for what stands for a source of news: it keeps the runs together and is shown nowhere as a lead. */
    isPerson: p.boolean().default(true),
  },
});

/**
 * How a person is recognised: one row per normal form, pointing to one lead. A number that was given under another name than its
 * lead's is no way to recognise anybody: "+447700900123|ben" of the kind `number_asked` until somebody has said whose it is, then `number_shared`.
 */
export const LeadIdentity = defineEntity({
  name: 'LeadIdentity',
  tableName: 'lead_identity',
  indexes: [
    { name: 'lead_identity_lead', properties: ['lead'] },
    {
      name: 'lead_identity_number',
      expression: `create index "lead_identity_number" on "lead_identity" ("business_id", split_part("value", '|', 1)) where "kind" in ('number_asked', 'number_shared')`,
    },
  ],
  properties: {
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false).primary(),
    kind: p.enum(['email', 'phone', 'source', 'number_asked', 'number_shared']).primary(),
    value: p.text().primary(),
    lead: () => p.manyToOne(Lead).ref(),
  },
});

/** What was said about being written to, with its evidence. Which of it counts: core/consent/precedence.ts. */
export const Consent = defineEntity({
  name: 'Consent',
  tableName: 'consent',
  indexes: [{ name: 'consent_lead', properties: ['lead', 'channel', 'at'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    lead: () => p.manyToOne(Lead).ref(),
    channel: p.enum([...CHANNELS]),
    state: p.enum(['given', 'unticked', 'withdrawn']),
    saidBy: p.enum([...SAID_BY]).default('themselves'),
    wording: p.text(),
    how: p.text(),
    /** Which version of the wording, where the source keeps versions. */
    version: p.text().default(''),
    /** The network address it was given from, where the source knows it. */
    address: p.text().default(''),
    arrival: () => p.manyToOne(Arrival).ref().nullable().createForeignKeyConstraint(false),
    /** What they wrote or filled in, where it did not come by a source. */
    inboundId: p.uuid().nullable(),
    /** What messages it is about; null for all. */
    purpose: p.enum([...PURPOSES]).nullable(),
    at: p.datetime(),
  },
});

/** One contact through an ad, page or form: the first and the last are kept for ever. */
export const Touch = defineEntity({
  name: 'Touch',
  tableName: 'touch',
  indexes: [
    { name: 'touch_lead', properties: ['lead', 'at'] },
    {
      name: 'touch_visitor',
      expression: `create index "touch_visitor" on "touch" ("business_id", ("where_from" ->> 'visitor')) where "where_from" ->> 'visitor' is not null`,
    },
    {
      name: 'touch_via',
      expression: `create unique index "touch_via" on "touch" ("via_id") where "via_id" is not null`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    lead: () => p.manyToOne(Lead).ref(),
    /** Null where it was no arrival: a visit of the business's pages, or a link of ours that was followed. */
    arrival: () => p.manyToOne(Arrival).ref().nullable().createForeignKeyConstraint(false),
    at: p.datetime(),
    whereFrom: p.json<WhereFrom>(),
    /** The visit or the message it came by, where it was no arrival: each counts once. */
    viaId: p.uuid().nullable(),
  },
});

/** A change of a person's name, address or number: written by a trigger, whatever made it (db/hot/lead-change.sql.ts). */
export const LeadChange = defineEntity({
  name: 'LeadChange',
  tableName: 'lead_change',
  indexes: [{ name: 'lead_change_lead', properties: ['lead', 'at'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    lead: () => p.manyToOne(Lead).ref().deleteRule('cascade'),
    field: p.text(),
    was: p.text(),
    became: p.text(),
    /** Who or what did it: ChangedBy of db/hot/lead-change.sql.ts. */
    by: p.json<Record<string, string>>(),
    at: p.datetime(),
  },
});
