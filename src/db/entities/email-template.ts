import { defineEntity, p } from '@mikro-orm/core';
import type { EmailLayout } from '../../core/email/layout.ts';
import { Business, Person } from './business.ts';

/** An email laid out beforehand. Every change is a version; a message keeps to the newest when it is sent. */
export const EmailTemplate = defineEntity({
  name: 'EmailTemplate',
  tableName: 'email_template',
  uniques: [{ name: 'email_template_name', properties: ['business', 'name'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    createdAt: p.datetime(),
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
