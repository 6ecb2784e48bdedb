import { defineEntity, p } from '@mikro-orm/core';
import { CHANNELS } from '../../core/workflow/channel.ts';
import type { Question } from '../../core/workflow/plan.ts';
import { Business, Person } from './business.ts';
import { Lead } from './lead.ts';
import { PRESENT } from './present.ts';
import { Run } from './run.ts';

/** A short address of ours in a message, or the picture by which an opened email is counted (then `url` is null). */
export const TrackedLink = defineEntity({
  name: 'TrackedLink',
  tableName: 'tracked_link',
  indexes: [
    { name: 'tracked_link_delivery', properties: ['deliveryId'] },
    { name: 'tracked_link_run', properties: ['runId'] },
  ],
  properties: {
    token: p.string().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    deliveryId: p.uuid(),
    runId: p.uuid().nullable(),
    stepId: p.string(),
    lead: () => p.manyToOne(Lead).ref().createForeignKeyConstraint(false),
    url: p.text().nullable(),
  },
});

/** A link followed, or an email opened. */
export const Visit = defineEntity({
  name: 'Visit',
  tableName: 'visit',
  indexes: [
    { name: 'visit_lead', properties: ['lead', 'at'] },
    { name: 'visit_delivery', properties: ['deliveryId'] },
    { name: 'visit_run', properties: ['runId'] },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    token: p.string(),
    deliveryId: p.uuid(),
    runId: p.uuid().nullable(),
    stepId: p.string(),
    lead: () => p.manyToOne(Lead).ref().createForeignKeyConstraint(false),
    kind: p.enum(['link', 'opened']),
    /** A scanner or a previewing program, not a person: kept apart and never counted. */
    machine: p.boolean(),
    agent: p.text(),
    at: p.datetime(),
  },
});

export const QUESTION_STATES = ['open', 'answered', 'given_up', 'closed'] as const;

/** A question put to a lead, and what they answered. */
export const AskedQuestion = defineEntity({
  name: 'AskedQuestion',
  tableName: 'asked_question',
  indexes: [
    {
      name: 'asked_question_open',
      expression: `create index "asked_question_open" on "asked_question" ("lead_id", "asked_at") where "state" = 'open'`,
    },
    { name: 'asked_question_run', properties: ['run', 'stepId'] },
  ],
  properties: {
    /** That of the delivery that asks. */
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    run: () => p.manyToOne(Run).ref(),
    stepId: p.string(),
    lead: () => p.manyToOne(Lead).ref(),
    channel: p.enum(['text', 'chat']),
    question: p.json<Question>(),
    state: p.enum([...QUESTION_STATES]),
    /** How often it has been asked. */
    times: p.integer(),
    /** As it was understood; null until then. */
    answer: p.text().nullable(),
    askedAt: p.datetime(),
    /** An answer after this is an ordinary reply. */
    until: p.datetime(),
    settledAt: p.datetime().nullable(),
  },
});

/** What a person and the business have written to each other, on every channel: one per person. */
export const Conversation = defineEntity({
  name: 'Conversation',
  tableName: 'conversation',
  indexes: [
    { name: 'conversation_at', properties: ['business', 'lastAt'] },
    {
      name: 'conversation_lead',
      expression: `create unique index "conversation_lead" on "conversation" ("lead_id") where "lead_id" is not null`,
    },
    {
      name: 'conversation_unread',
      expression: `create index "conversation_unread" on "conversation" ("business_id") where ("unread" > 0)`,
    },
    {
      name: 'conversation_sender',
      expression: `create unique index "conversation_sender" on "conversation" ("business_id", "sender") where "lead_id" is null`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    /** Null for somebody who is no lead. */
    lead: () => p.manyToOne(Lead).ref().nullable(),
    /** The number or address they wrote from last. */
    sender: p.text(),
    /** What came last: where, what, and whether it came from them. */
    channel: p.enum([...CHANNELS]),
    lastText: p.text(),
    lastIn: p.boolean(),
    lastAt: p.datetime(),
    /** What has come from them since somebody looked. */
    unread: p.integer().default(0),
    /** The colleague who is to answer. */
    assignee: () => p.manyToOne(Person).ref().nullable().deleteRule('set null'),
    /** The colleague who has taken over: their workflows are held until it is handed back. */
    takenBy: () => p.manyToOne(Person).ref().nullable().deleteRule('set null'),
    takenAt: p.datetime().nullable(),
    /** Nothing is left to answer; whatever they write opens it again. */
    doneAt: p.datetime().nullable(),
    /** Who is writing an answer right now, and until when that counts. */
    typingBy: () => p.manyToOne(Person).ref().nullable().deleteRule('set null'),
    typingUntil: p.datetime().nullable(),
  },
});

/** An answer written beforehand, with fields in it. */
export const CannedAnswer = defineEntity({
  name: 'CannedAnswer',
  tableName: 'canned_answer',
  indexes: [
    {
      name: 'canned_answer_name',
      expression: `create unique index "canned_answer_name" on "canned_answer" ("business_id", "name") where "removed_at" is null`,
    },
  ],
  filters: { present: PRESENT },
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    text: p.text(),
    createdAt: p.datetime(),
    /** When it was removed: it can be put back for some time. */
    removedAt: p.datetime().nullable(),
  },
});
