import { z } from 'zod';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { planChat } from '../plan-chat.ts';
import { planChatTemplate } from '../plan-chat-template.ts';
import { planText } from '../plan-text.ts';

const Settings = z.object({
  /** Longest text a chat message may have: docs/gateways.md. */
  message: z.string().max(4096),
  needsConsent: z.boolean(),
  /** A chat template that is sent instead when the network takes no free message; empty for a text. */
  template: z.string().max(60).default(''),
});
export type ChatSettings = z.infer<typeof Settings>;

/** A message in chat, to somebody who has written there within the last 24 hours. */
export const chat: StepKind<ChatSettings> = {
  kind: 'chat',
  label: 'Write in chat',
  icon: 'messages-square',
  places: ['lead'],
  settings: Settings,
  blank: () => ({ message: '', needsConsent: false, template: '' }),
  card: ({ message }) => ({ title: 'Chat', line: message }),
  aloud: () => 'write to them in chat',
  check: ({ message, template }, { desk }) => {
    const found: ReturnType<StepKind['check']> = [];
    if (message.trim() === '')
      found.push({ weight: 'must', code: 'empty', text: 'Chat: the message is empty.', field: 'message' });
    if (!desk.chat) found.push({ weight: 'must', code: 'no-sender', text: 'Chat: no chat network is connected yet.' });
    const instead = desk.chatTemplates.find((one) => one.id === template);
    if (template !== '' && !instead?.approved)
      found.push({
        weight: 'must',
        code: 'not-approved',
        text: `Chat: the template sent instead ${instead ? 'is not approved' : 'is no longer there'}.`,
        field: 'template',
      });
    return found;
  },
  templates: ({ message }) => [{ field: 'message', source: message }],
  plan: planChat,
  instead: ({ message, needsConsent, template }, input) =>
    template === ''
      ? planText({ message, needsConsent, countLinks: true }, input)
      : planChatTemplate({ template, needsConsent }, input),
};
