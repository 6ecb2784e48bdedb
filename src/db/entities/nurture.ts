import { defineEntity, p } from '@mikro-orm/core';
import { Business, Person } from './business.ts';
import { Lead } from './lead.ts';

/** People who are written to again and again. */
export const NurtureList = defineEntity({
  name: 'NurtureList',
  tableName: 'nurture_list',
  uniques: [{ name: 'nurture_list_name', properties: ['business', 'name'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    createdAt: p.datetime(),
  },
});

/** `active` gets what is sent; every other state gets nothing. */
export const MEMBER_STATES = ['waiting', 'active', 'unsubscribed', 'bounced', 'complained', 'cleaned'] as const;
export type MemberState = (typeof MEMBER_STATES)[number];

/** A lead on a list. */
export const ListMember = defineEntity({
  name: 'ListMember',
  tableName: 'list_member',
  indexes: [{ name: 'list_member_lead', properties: ['lead'] }],
  properties: {
    list: () => p.manyToOne(NurtureList).ref().deleteRule('cascade').primary(),
    lead: () => p.manyToOne(Lead).ref().primary(),
    state: p.enum([...MEMBER_STATES]),
    /** How they came onto it: "By the workflow …", "Put on by …". */
    how: p.text(),
    joinedAt: p.datetime(),
    /** When the state changed last. */
    changedAt: p.datetime(),
    runId: p.uuid().nullable(),
  },
});

/** One email to many people at once. */
export const Mailing = defineEntity({
  name: 'Mailing',
  tableName: 'mailing',
  indexes: [
    { name: 'mailing_business', properties: ['business', 'createdAt'] },
    {
      name: 'mailing_to_plan',
      expression: `create index "mailing_to_plan" on "mailing" ("planned_at") where "state" = 'planning'`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    /** Who gets it. */
    audience: p.json<{ list: string } | { tag: string }>(),
    /** The settings of the email, as in a step. */
    email: p.json<Record<string, unknown>>(),
    /** `planning`: its messages are being made; `sending`: all are made; `stopped`: the rest is not sent. */
    state: p.enum(['planning', 'sending', 'stopped']),
    /** The last lead its message was made for; planning goes on behind it. */
    lastLead: p.uuid().nullable(),
    planned: p.integer().default(0),
    left: p.integer().default(0),
    plannedAt: p.datetime(),
    createdAt: p.datetime(),
    runId: p.uuid().nullable(),
    stepId: p.string(),
    startedBy: () => p.manyToOne(Person).ref().nullable(),
    leaseBy: p.text().nullable(),
  },
});
