import { defineEntity, p } from '@mikro-orm/core';
import { Business, Person } from './business.ts';
import { Lead } from './lead.ts';

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
  uniques: [{ name: 'tag_name', properties: ['business', 'name'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    createdAt: p.datetime(),
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
    runId: p.uuid().nullable(),
    createdAt: p.datetime(),
  },
});
