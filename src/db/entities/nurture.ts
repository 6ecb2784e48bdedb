import { defineEntity, p } from '@mikro-orm/core';
import type { Condition } from '../../core/condition/condition.ts';
import type { Audience } from '../../core/people/audience.ts';
import type { BulkAction } from '../../core/people/bulk-action.ts';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import { MEMBER_STATES } from '../../core/people/member-state.ts';
import { Business, Person } from './business.ts';
import { Lead } from './lead.ts';
import { PRESENT } from './present.ts';
import { Source } from './source.ts';

/** People who are written to again and again. */
export const NurtureList = defineEntity({
  name: 'NurtureList',
  tableName: 'nurture_list',
  indexes: [
    {
      name: 'nurture_list_name',
      expression:
        'create unique index "nurture_list_name" on "nurture_list" ("business_id", "name") where "removed_at" is null',
    },
  ],
  filters: { present: PRESENT },
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    /** Where it is kept among others; empty for none. */
    folder: p.string().length(60).default(''),
    createdAt: p.datetime(),
    /** Since when it is gone for everybody but its history. */
    removedAt: p.datetime().nullable(),
    /** `double`: nobody is on it before they have said yes by the link of the email that asks them. */
    optIn: p.enum(['single', 'double']).default('single'),
    /** The email that asks them; a template with a field for the link. Empty for our own words. */
    confirmSubject: p.text().default(''),
    confirmMessage: p.text().default(''),
    /** Fields of its members beyond those of every lead. */
    fields: p.json<{ key: string; label: string }[]>().default([]),
    /** Through which joining it starts sequences. */
    source: () => p.manyToOne(Source).ref().nullable(),
  },
});

/** People chosen by a condition, anew every time they are asked for. */
export const Segment = defineEntity({
  name: 'Segment',
  tableName: 'segment',
  indexes: [
    {
      name: 'segment_name',
      expression: `create unique index "segment_name" on "segment" ("business_id", "name") where "removed_at" is null`,
    },
  ],
  filters: { present: PRESENT },
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    /** Where it is kept among others; empty for none. */
    folder: p.string().length(60).default(''),
    condition: p.json<Condition>(),
    createdAt: p.datetime(),
    /** When it was removed: it can be put back for some time. */
    removedAt: p.datetime().nullable(),
  },
});

/** Something done with many leads at once, some at a time, until all are done or somebody stops it. */
export const BulkWork = defineEntity({
  name: 'BulkWork',
  tableName: 'bulk_work',
  indexes: [
    { name: 'bulk_work_business', properties: ['business', 'createdAt'] },
    {
      name: 'bulk_work_to_do',
      expression: `create index "bulk_work_to_do" on "bulk_work" ("due_at") where "state" = 'running'`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    choice: p.json<LeadChoice>(),
    action: p.json<BulkAction>(),
    state: p.enum(['running', 'done', 'stopped', 'refused']),
    /** How many there were when it was begun; looked at so far, and of these how many it changed. */
    total: p.integer(),
    done: p.integer().default(0),
    changed: p.integer().default(0),
    /** Why it could not go on. */
    problem: p.text().default(''),
    /** The last lead that is done; it goes on behind it. */
    lastLead: p.uuid().nullable(),
    dueAt: p.datetime(),
    leaseBy: p.text().nullable(),
    startedBy: () => p.manyToOne(Person).ref().nullable(),
    createdAt: p.datetime(),
    finishedAt: p.datetime().nullable(),
  },
});

/** A lead on a list. */
export const ListMember = defineEntity({
  name: 'ListMember',
  tableName: 'list_member',
  indexes: [
    { name: 'list_member_lead', properties: ['lead'] },
    { name: 'list_member_joined', properties: ['list', 'joinedAt'] },
  ],
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
    fields: p.json<Record<string, string>>().defaultRaw(`'{}'`),
    /** When they were asked to confirm, and when they said yes; null on a list that does not ask. */
    askedAt: p.datetime().nullable(),
    confirmedAt: p.datetime().nullable(),
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
    audience: p.json<Audience>(),
    /** As it is known here; empty for one that a workflow set off. */
    name: p.text().default(''),
    /** The settings of the email, as in a step. */
    email: p.json<Record<string, unknown>>(),
    /**
     * `draft` is being written; `planning`: its messages are being made; `trying`: two subjects are out to a part, the rest waits;
     * `sending`: all are made; `stopped`: the rest is not sent.
     */
    state: p.enum(['draft', 'planning', 'trying', 'sending', 'stopped']),
    /** Minutes over which it goes out. */
    spreadMinutes: p.integer().default(0),
    /** A second subject, tried on a part (percent of the readers, both together), and after how many minutes that is judged. */
    subjectB: p.text().default(''),
    part: p.integer().default(0),
    decideAfter: p.integer().default(0),
    decideAt: p.datetime().nullable(),
    /** Which subject the rest got; `none` when the difference was chance. */
    winner: p.enum(['a', 'b', 'none']).nullable(),
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

/** Somebody an email to many was meant for and did not go to, and why. */
export const MailingLeft = defineEntity({
  name: 'MailingLeft',
  tableName: 'mailing_left',
  indexes: [{ name: 'mailing_left_lead', properties: ['lead'] }],
  properties: {
    mailing: () => p.manyToOne(Mailing).ref().deleteRule('cascade').primary(),
    lead: () => p.manyToOne(Lead).ref().deleteRule('cascade').primary(),
    /** LeftOut of core/people/left-out.ts. */
    code: p.text(),
    detail: p.text(),
  },
});
