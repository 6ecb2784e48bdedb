import { z } from 'zod';
import { readReference, writeReference } from '../template/field-reference.ts';
import { READER, renderTemplate, type TemplateScope, templateProblem, usedReferences } from '../template/template.ts';
import { dateInMessage } from '../words/date-in-message.ts';

/** Longest parts a chat network takes, in characters: docs/gateways.md. */
export const CHAT_TEMPLATE_MOST = { heading: 60, text: 1024, closing: 60, button: 20, buttons: 3 } as const;

/** A message a chat network has to approve before a business may begin a conversation with it. */
export const ChatTemplateContent = z.object({
  /** `promotion` wants to sell; `service` tells about what they asked for. */
  kind: z.enum(['promotion', 'service']),
  heading: z.string().trim().max(CHAT_TEMPLATE_MOST.heading).default(''),
  /** With fields, as in any message. */
  text: z.string().trim().max(CHAT_TEMPLATE_MOST.text).default(''),
  closing: z.string().trim().max(CHAT_TEMPLATE_MOST.closing).default(''),
  buttons: z
    .array(z.string().trim().min(1, 'A button says nothing').max(CHAT_TEMPLATE_MOST.button))
    .max(CHAT_TEMPLATE_MOST.buttons)
    .default([]),
  /** It opens a form, by our id; empty for none. */
  form: z.string().max(60).default(''),
  /** What reviewers see in place of each field, by its reference. */
  samples: z.record(z.string().max(200), z.string().max(200)).default({}),
});
export type ChatTemplateContent = z.infer<typeof ChatTemplateContent>;

/** How it stands with a version, and in which of our soft colours that is shown. */
export const TEMPLATE_STATES = {
  draft: { words: 'Not sent for review', tone: '' },
  waiting: { words: 'Waiting for review', tone: 'slate' },
  approved: { words: 'Approved', tone: 'good' },
  refused: { words: 'Refused', tone: 'bad' },
  withdrawn: { words: 'Withdrawn by the network', tone: 'bad' },
};
export type TemplateState = keyof typeof TEMPLATE_STATES;

/** References of the fields in a template's text, each once, in reading order. */
export const templateFields = ({ text }: Pick<ChatTemplateContent, 'text'>): string[] => [
  ...new Set(usedReferences(text).map(writeReference)),
];

/** What a reviewer would stumble over, in sentences. */
export function chatTemplateProblems(content: ChatTemplateContent): string[] {
  const found: string[] = [];
  if (content.text === '') found.push('The text is empty.');
  const wrong = templateProblem(content.text);
  if (wrong) found.push(wrong.text);
  // A reviewer sees the name of a field and no filter: only plain fields can be put in.
  if (!wrong && /\{\{[^{}|]*\|/.test(content.text)) found.push('A field here cannot be tidied: put it in as it is.');
  for (const reference of templateFields(content))
    if ((content.samples[reference] ?? '').trim() === '') found.push(`Give a sample for the field ${reference}.`);
  if (/^\s*\{\{/.test(content.text) || /\}\}\s*$/.test(content.text))
    found.push('The text may not begin or end with a field.');
  return found;
}

/** The values of a template's fields for somebody, by reference; null with the field that is empty. */
export function templateValues(
  content: ChatTemplateContent,
  scope: TemplateScope,
): { ok: true; fields: Record<string, string> } | { ok: false; empty: string } {
  const fields: Record<string, string> = {};
  for (const reference of templateFields(content)) {
    const read = readReference(reference);
    const value = read ? (scope[read.group][read.key] ?? '').trim() : '';
    if (value === '') return { ok: false, empty: reference };
    fields[reference] = scope[READER] ? dateInMessage(value, scope[READER]) : value;
  }
  return { ok: true, fields };
}

/** A template as it is read on a phone. */
export function templateWords(content: ChatTemplateContent, scope: TemplateScope): string {
  const rendered = renderTemplate(content.text, scope);
  return [content.heading, rendered.ok ? rendered.text : content.text, content.closing].filter(Boolean).join('\n\n');
}
