import { defineEntity, p } from '@mikro-orm/core';
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
    { name: 'lead_business_at', properties: ['business', 'lastArrivalAt'] },
    { name: 'lead_created', properties: ['business', 'createdAt'] },
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
    createdAt: p.datetime(),
    lastArrivalAt: p.datetime(),
    /** The colleague who looks after them. */
    ownerId: p.uuid().nullable(),
    /** False for what stands for a source of news: it keeps the runs together and is shown nowhere as a lead. */
    isPerson: p.boolean().default(true),
  },
});

/** How a person is recognised: one row per normal form, pointing to one lead. */
export const LeadIdentity = defineEntity({
  name: 'LeadIdentity',
  tableName: 'lead_identity',
  indexes: [{ name: 'lead_identity_lead', properties: ['lead'] }],
  properties: {
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false).primary(),
    kind: p.enum(['email', 'phone', 'source']).primary(),
    value: p.text().primary(),
    lead: () => p.manyToOne(Lead).ref(),
  },
});

/** Consent given or withdrawn, with its evidence. Of those about a channel and a purpose the newest counts. */
export const Consent = defineEntity({
  name: 'Consent',
  tableName: 'consent',
  indexes: [{ name: 'consent_lead', properties: ['lead', 'channel', 'at'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    lead: () => p.manyToOne(Lead).ref(),
    channel: p.enum([...CHANNELS]),
    state: p.enum(['given', 'withdrawn']),
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
  indexes: [{ name: 'touch_lead', properties: ['lead', 'at'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    lead: () => p.manyToOne(Lead).ref(),
    arrival: () => p.manyToOne(Arrival).ref().createForeignKeyConstraint(false),
    at: p.datetime(),
    whereFrom: p.json<WhereFrom>(),
  },
});
