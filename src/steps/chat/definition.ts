import { z } from 'zod';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { planChat } from '../plan-chat.ts';
import { planText } from '../plan-text.ts';

const Settings = z.object({
  /** Longest text a chat message may have: docs/gateways.md. */
  message: z.string().max(4096),
  needsConsent: z.boolean(),
});
export type ChatSettings = z.infer<typeof Settings>;

/** A message in chat, to somebody who has written there within the last 24 hours. */
export const chat: StepKind<ChatSettings> = {
  kind: 'chat',
  label: 'Write in chat',
  icon: 'messages-square',
  places: ['lead'],
  settings: Settings,
  blank: () => ({ message: '', needsConsent: false }),
  card: ({ message }) => ({ title: 'Chat', line: message }),
  aloud: () => 'write to them in chat',
  check: ({ message }, { desk }) => {
    const found: ReturnType<StepKind['check']> = [];
    if (message.trim() === '')
      found.push({ weight: 'must', code: 'empty', text: 'Chat: the message is empty.', field: 'message' });
    if (!desk.chat) found.push({ weight: 'must', code: 'no-sender', text: 'Chat: no chat network is connected yet.' });
    return found;
  },
  templates: ({ message }) => [{ field: 'message', source: message }],
  plan: planChat,
  instead: ({ message, needsConsent }, input) => planText({ message, needsConsent, countLinks: true }, input),
};
