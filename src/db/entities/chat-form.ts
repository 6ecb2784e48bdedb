import { defineEntity, p } from '@mikro-orm/core';
import type { ChatForm as Content } from '../../core/form/chat-form.ts';
import { Business } from './business.ts';
import { Lead } from './lead.ts';
import { PRESENT } from './present.ts';

/** A form that is filled in inside the chat; what it asks stands in its versions. */
export const ChatForm = defineEntity({
  name: 'ChatForm',
  tableName: 'chat_form',
  indexes: [
    {
      name: 'chat_form_name',
      expression: `create unique index "chat_form_name" on "chat_form" ("business_id", "name") where "removed_at" is null`,
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

/** One version. Once the network has it, it is never changed: consents point to its wording. */
export const ChatFormVersion = defineEntity({
  name: 'ChatFormVersion',
  tableName: 'chat_form_version',
  uniques: [{ name: 'chat_form_version_number', properties: ['form', 'number'] }],
  properties: {
    id: p.uuid().primary(),
    form: () => p.manyToOne(ChatForm).ref().deleteRule('cascade'),
    number: p.integer(),
    content: p.json<Content>(),
    /** What the network calls it; null while it is a draft. */
    remoteId: p.text().nullable(),
    createdAt: p.datetime(),
  },
});

/** What somebody answered in one form that was sent. One row per form sent: nobody answers the same one twice. */
export const FormAnswer = defineEntity({
  name: 'FormAnswer',
  tableName: 'form_answer',
  indexes: [
    { name: 'form_answer_lead', properties: ['lead', 'at'] },
    { name: 'form_answer_run', properties: ['runId'] },
  ],
  properties: {
    /** The delivery the form was sent with: its token names it. */
    deliveryId: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    lead: () => p.manyToOne(Lead).ref(),
    runId: p.uuid().nullable(),
    stepId: p.string(),
    version: () => p.manyToOne(ChatFormVersion).ref().createForeignKeyConstraint(false),
    /** What came in with it. */
    inboundId: p.uuid(),
    answers: p.json<Record<string, string>>(),
    at: p.datetime(),
  },
});

/** One marketing message a person has had, or is about to: as many a day as the business allows. */
export const MarketingSlot = defineEntity({
  name: 'MarketingSlot',
  tableName: 'marketing_slot',
  indexes: [{ name: 'marketing_slot_day', properties: ['lead', 'day'] }],
  properties: {
    deliveryId: p.uuid().primary(),
    lead: () => p.manyToOne(Lead).ref().deleteRule('cascade'),
    /** By the business's clock. */
    day: p.date(),
  },
});
