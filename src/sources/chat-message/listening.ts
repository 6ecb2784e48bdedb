import { z } from 'zod';
import { saysOneOf } from '../../core/message/says-one-of.ts';

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
