import { defineEntity, p } from '@mikro-orm/core';
import type { EmailLayout } from '../../core/email/layout.ts';
import { Business, Person } from './business.ts';
import { PRESENT } from './present.ts';

/** An email laid out beforehand. Every change is a version; a message keeps to the newest when it is sent. */
export const EmailTemplate = defineEntity({
  name: 'EmailTemplate',
  tableName: 'email_template',
  indexes: [
    {
      name: 'email_template_name',
      expression: `create unique index "email_template_name" on "email_template" ("business_id", "name") where "removed_at" is null`,
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

export const EmailTemplateVersion = defineEntity({
  name: 'EmailTemplateVersion',
  tableName: 'email_template_version',
  uniques: [{ name: 'email_template_version_number', properties: ['template', 'number'] }],
  properties: {
    id: p.uuid().primary(),
    template: () => p.manyToOne(EmailTemplate).ref().deleteRule('cascade'),
    number: p.integer(),
    layout: p.json<EmailLayout>(),
    /** Made of the layout once, when it is saved; fields are still in it. */
    html: p.text(),
    text: p.text(),
    createdAt: p.datetime(),
    author: () => p.manyToOne(Person).ref().nullable(),
  },
});

/** A file kept to be attached to emails or shown in them. */
export const KeptFile = defineEntity({
  name: 'KeptFile',
  tableName: 'kept_file',
  indexes: [{ name: 'kept_file_business', properties: ['business'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    type: p.string(),
    bytes: p.integer(),
    content: p.blob().lazy(),
    createdAt: p.datetime(),
  },
});
