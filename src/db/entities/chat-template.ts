import { defineEntity, p } from '@mikro-orm/core';
import { type ChatTemplateContent, TEMPLATE_STATES } from '../../core/message/chat-template.ts';
import { namesOf } from '../../core/words/names-of.ts';
import { Business } from './business.ts';
import { PRESENT } from './present.ts';

/** A chat message that is approved beforehand; what it says stands in its versions. */
export const ChatTemplate = defineEntity({
  name: 'ChatTemplate',
  tableName: 'chat_template',
  indexes: [
    {
      name: 'chat_template_name',
      expression: `create unique index "chat_template_name" on "chat_template" ("business_id", "name") where "removed_at" is null`,
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

/** One version, as the network was asked to approve it. The newest approved one is sent. */
export const ChatTemplateVersion = defineEntity({
  name: 'ChatTemplateVersion',
  tableName: 'chat_template_version',
  uniques: [{ name: 'chat_template_version_number', properties: ['template', 'number'] }],
  indexes: [{ name: 'chat_template_version_remote', properties: ['remoteId'] }],
  properties: {
    id: p.uuid().primary(),
    template: () => p.manyToOne(ChatTemplate).ref().deleteRule('cascade'),
    number: p.integer(),
    content: p.json<ChatTemplateContent>(),
    state: p.enum(namesOf(TEMPLATE_STATES)),
    /** Why it was refused or withdrawn, in the network's words. */
    reason: p.text().default(''),
    /** What the network calls it. */
    remoteId: p.text().nullable(),
    createdAt: p.datetime(),
    decidedAt: p.datetime().nullable(),
  },
});
