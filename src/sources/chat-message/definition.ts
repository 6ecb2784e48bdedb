import { type Field, labelFromKey, storableText } from '../../core/fields/field.ts';
import { ChatReport } from '../../core/message/inbound-report.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { readBodyAs } from '../body/read-body-as.ts';
import { ChatMessageSettings } from './listening.ts';

/** Somebody writes in chat, taps a button or fills in a form there. */
export const chatMessage: SourceKind<ChatMessageSettings> = {
  kind: 'chat-message',
  label: 'Chat message',
  about: 'Somebody writes to you in chat, taps a button or completes a form there.',
  icon: 'messages-square',
  settings: ChatMessageSettings,
  brings: 'people',
  comesBy: 'reported',
  changeable: ['when', 'words', 'form'],
  contentType: 'application/json',
  // What the network reports was verified where reports come in.
  signedBy: () => ({ way: 'nobody' }),
  read: async (raw): Promise<SourceReading> => {
    const read = await readBodyAs(raw, ChatReport, 'what the chat network reports');
    if (!read.ok) return read;
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
    return { ok: true, entries: [{ externalId: data.id, fields, whereFrom: {}, ...doneAt(data.at) }] };
  },
};
