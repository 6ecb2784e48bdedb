import { defineEntity, p } from '@mikro-orm/core';
import { Business, Person } from './business.ts';
import { Lead } from './lead.ts';
import { PRESENT } from './present.ts';
import { Run } from './run.ts';

/** Something written about a lead, by a step or by a person. */
export const LeadNote = defineEntity({
  name: 'LeadNote',
  tableName: 'lead_note',
  indexes: [{ name: 'lead_note_lead', properties: ['lead', 'at'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    lead: () => p.manyToOne(Lead).ref(),
    text: p.text(),
    at: p.datetime(),
    /** The run that wrote it; null when a person did. */
    runId: p.uuid().nullable(),
    author: () => p.manyToOne(Person).ref().nullable(),
  },
});

/** A word on a lead, known by its id: it can be renamed. */
export const Tag = defineEntity({
  name: 'Tag',
  tableName: 'tag',
  indexes: [
    {
      name: 'tag_name',
      expression: `create unique index "tag_name" on "tag" ("business_id", "name") where "removed_at" is null`,
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
    /** When it was removed: it can be put back for some time. */
    removedAt: p.datetime().nullable(),
  },
});

export const LeadTag = defineEntity({
  name: 'LeadTag',
  tableName: 'lead_tag',
  properties: {
    lead: () => p.manyToOne(Lead).ref().primary(),
    tag: () => p.manyToOne(Tag).ref().deleteRule('cascade').primary(),
    at: p.datetime(),
    runId: p.uuid().nullable(),
  },
});

/** Something a colleague is to do about a lead: usually a call. */
export const Task = defineEntity({
  name: 'Task',
  tableName: 'task',
  indexes: [
    {
      name: 'task_open',
      expression: `create index "task_open" on "task" ("business_id", "due_at") where "done_at" is null`,
    },
    { name: 'task_lead', properties: ['lead'] },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    lead: () => p.manyToOne(Lead).ref(),
    /** Null for whoever is free. */
    colleague: () => p.manyToOne(Person).ref().nullable(),
    title: p.text(),
    dueAt: p.datetime(),
    createdAt: p.datetime(),
    doneAt: p.datetime().nullable(),
    runId: p.uuid().nullable(),
  },
});

/** Time held in a colleague's calendar. */
export const CalendarEntry = defineEntity({
  name: 'CalendarEntry',
  tableName: 'calendar_entry',
  indexes: [
    { name: 'calendar_entry_colleague', properties: ['colleague', 'startsAt'] },
    { name: 'calendar_entry_lead', properties: ['lead'] },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    colleague: () => p.manyToOne(Person).ref(),
    lead: () => p.manyToOne(Lead).ref().nullable(),
    title: p.text(),
    startsAt: p.datetime(),
    endsAt: p.datetime(),
    /** Its UID (RFC 5545 §3.8.4.7) where it was read from a calendar file. */
    uid: p.text().nullable(),
    runId: p.uuid().nullable(),
    createdAt: p.datetime(),
  },
});

/** The way a deal goes, stage by stage. */
export const Pipeline = defineEntity({
  name: 'Pipeline',
  tableName: 'pipeline',
  indexes: [{ name: 'pipeline_business', properties: ['business'] }],
  filters: { present: PRESENT },
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    /** Where it is kept among others; empty for none. */
    folder: p.string().length(60).default(''),
    /** ISO 4217. */
    currency: p.string().length(3),
    createdAt: p.datetime(),
    /** When it was removed: it can be put back for some time. */
    removedAt: p.datetime().nullable(),
  },
});

export const Stage = defineEntity({
  name: 'Stage',
  tableName: 'stage',
  indexes: [{ name: 'stage_pipeline', properties: ['pipeline', 'position'] }],
  properties: {
    id: p.uuid().primary(),
    pipeline: () => p.manyToOne(Pipeline).ref().deleteRule('cascade'),
    name: p.string(),
    position: p.integer(),
    /** A deal that comes here is over. */
    ends: p.enum(['won', 'lost']).nullable(),
  },
});

/** What may come of a lead: one open deal per lead and pipeline. */
export const Deal = defineEntity({
  name: 'Deal',
  tableName: 'deal',
  indexes: [
    {
      name: 'deal_open',
      expression: `create unique index "deal_open" on "deal" ("lead_id", "pipeline_id") where "closed_at" is null`,
    },
    { name: 'deal_stage', properties: ['stage'] },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    lead: () => p.manyToOne(Lead).ref(),
    pipeline: () => p.manyToOne(Pipeline).ref(),
    stage: () => p.manyToOne(Stage).ref(),
    title: p.text(),
    value: p.decimal().precision(14).scale(2).nullable(),
    /** What is to be done next, in words. */
    nextStep: p.text().default(''),
    /** The run that moved it last; null when a person did. */
    runId: p.uuid().nullable(),
    createdAt: p.datetime(),
    movedAt: p.datetime(),
    closedAt: p.datetime().nullable(),
  },
});

/** A deal has come into a stage, moved by a run or by a person. */
export const DealMove = defineEntity({
  name: 'DealMove',
  tableName: 'deal_move',
  indexes: [
    { name: 'deal_move_deal', properties: ['deal', 'at'] },
    { name: 'deal_move_lead', properties: ['lead'] },
  ],
  properties: {
    id: p.uuid().primary(),
    deal: () => p.manyToOne(Deal).ref().deleteRule('cascade'),
    lead: () => p.manyToOne(Lead).ref().deleteRule('cascade'),
    stage: () => p.manyToOne(Stage).ref().deleteRule('cascade'),
    at: p.datetime(),
    runId: p.uuid().nullable(),
    person: () => p.manyToOne(Person).ref().nullable().deleteRule('set null'),
  },
});

/** A booking of an outside calendar that has been put into ours: each once. */
export const BookingTaken = defineEntity({
  name: 'BookingTaken',
  tableName: 'booking_taken',
  properties: { arrivalId: p.uuid().primary(), at: p.datetime() },
});

/** What an outside look-up answered, kept for a while so that it is not asked for every lead. */
export const LookedUp = defineEntity({
  name: 'LookedUp',
  tableName: 'looked_up',
  properties: {
    business: () => p.manyToOne(Business).ref().primary(),
    key: p.string().primary(),
    /** Null when nothing was found. */
    value: p.json<Record<string, string> | null>().nullable(),
    at: p.datetime(),
  },
});

/** Whose turn it was, of those a step goes through in turn: taken once per run and step. */
export const TurnTaken = defineEntity({
  name: 'TurnTaken',
  tableName: 'turn_taken',
  properties: {
    run: () => p.manyToOne(Run).ref().deleteRule('cascade').primary(),
    stepId: p.string().primary(),
    person: () => p.manyToOne(Person).ref(),
    at: p.datetime(),
  },
});

/** Two leads that were one person, made one: what was moved stands in `moved`, so that it can be undone. */
export const LeadMerge = defineEntity({
  name: 'LeadMerge',
  tableName: 'lead_merge',
  indexes: [{ name: 'lead_merge_kept', properties: ['kept'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    kept: () => p.manyToOne(Lead).ref(),
    /** The other lead as it was, and the ids of the rows that were moved, by table. */
    gone: p.json<Record<string, unknown>>(),
    before: p.json<Record<string, unknown>>(),
    moved: p.json<Record<string, unknown[]>>(),
    at: p.datetime(),
    person: () => p.manyToOne(Person).ref().nullable(),
    undoneAt: p.datetime().nullable(),
  },
});

/** That somebody was erased, and that consent had existed: no name, no address, only their hash. */
export const Erasure = defineEntity({
  name: 'Erasure',
  tableName: 'erasure',
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    /** SHA-256 of each identity with the business's id. */
    hashes: p.json<string[]>(),
    /** What consents there were: channel, state, wording, version, time. */
    consents: p.json<Record<string, unknown>[]>(),
    at: p.datetime(),
    person: () => p.manyToOne(Person).ref().nullable(),
  },
});
