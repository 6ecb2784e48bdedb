import { z } from 'zod';
import { type Field, labelFromKey, storableText } from '../../core/fields/field.ts';
import { ChatReport } from '../../core/message/inbound-report.ts';
import { saysOneOf } from '../../core/message/says-one-of.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { readBody } from '../body/read-body.ts';
import { shapeProblem } from '../body/shape-problem.ts';

/** What of all that is written in chat comes in by a source. */
export const CHAT_WHENS = {
  any: 'Any message',
  first: 'The first message from a person',
  words: 'A message with certain words',
  button: 'A button tapped',
  form: 'A form completed',
} as const;
export type ChatWhen = keyof typeof CHAT_WHENS;

export const ChatMessageSettings = z.object({
  connectionId: z.uuid(),
  when: z.enum(Object.keys(CHAT_WHENS) as [ChatWhen, ...ChatWhen[]]),
  /** For words and buttons: one per line; for a button, empty means any. */
  words: z.string().max(1000).default(''),
  /** For a form: ours, by id; empty for any. */
  form: z.string().max(60).default(''),
});
export type ChatMessageSettings = z.infer<typeof ChatMessageSettings>;

/** Something said in chat, as far as it matters to who listens. */
export interface ChatSaid {
  kind: 'message' | 'button' | 'form';
  text: string;
  /** Nothing came from this person before it. */
  first: boolean;
  /** Our id of the form that was filled in. */
  formId: string | null;
}

/** Whether this is what the source listens to. */
export function listensTo({ when, words, form }: ChatMessageSettings, said: ChatSaid): boolean {
  switch (when) {
    case 'any':
      return said.kind !== 'form';
    case 'first':
      return said.kind !== 'form' && said.first;
    case 'words':
      return said.kind !== 'form' && words.trim() !== '' && saysOneOf(said.text, words);
    case 'button':
      return said.kind === 'button' && saysOneOf(said.text, words);
    case 'form':
      return said.kind === 'form' && (form === '' || form === said.formId);
  }
}

/** Somebody writes in chat, taps a button or fills in a form there. */
export const chatMessage: SourceKind<ChatMessageSettings> = {
  kind: 'chat-message',
  label: 'Chat message',
  about: 'Somebody writes to you in chat, taps a button or completes a form there.',
  icon: 'message-circle',
  settings: ChatMessageSettings,
  brings: 'people',
  door: 'reported',
  changeable: ['when', 'words', 'form'],
  contentType: 'application/json',
  // What the network reports was verified where reports come in.
  signedBy: () => ({ way: 'nobody' }),
  read: async (raw): Promise<SourceReading> => {
    const body = await readBody(raw);
    if (!body.ok) return body;
    const read = ChatReport.safeParse(body.value);
    if (!read.success) return shapeProblem('what the chat network reports', read.error);
    const { type, data } = read.data;
    const field = (key: string, label: string, value: string): Field => ({ key, label, value: storableText(value) });
    const fields = [field('phone', 'Phone', data.from)];
    if (type === 'chat.received') {
      if (data.name !== '') fields.push(field('name_in_chat', 'Name in chat', data.name));
      fields.push(field('message', 'Message', data.text));
      fields.push(field('tapped', 'Button tapped', data.button ? 'yes' : 'no'));
    } else {
      // Their tick and their address are kept on the lead where the form is taken in.
      for (const [key, value] of Object.entries(data.answers))
        if (key !== 'consent' && key !== 'email') fields.push(field(key, labelFromKey(key), value));
    }
    return { ok: true, entries: [{ externalId: data.id, fields, whereFrom: {} }] };
  },
};
