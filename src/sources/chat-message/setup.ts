import { z } from 'zod';
import type { LeadCard } from '../../core/source/lead-card.ts';
import { type SourceSetup, trouble } from '../source-module.ts';
import { ChatMessageSettings } from './listening.ts';

const Input = ChatMessageSettings.extend({
  name: z.string().trim().min(1, 'Give the source a name').max(100),
});
type Input = z.infer<typeof Input>;

/**
 * They are known by the number they write from, and a form says their name. What they call themselves in chat is put on a lead without a
 * name, and an address they give on its lead, where it is taken in; so is their consent.
 */
const CARD: LeadCard = {
  fields: { phone: 'phone', first_name: 'first_name', last_name: 'last_name' },
  consent: { kind: 'not_asked' },
};

/** Nothing to arrange outside: what is written to the business's number is reported to us as it is. */
export const chatMessageSetup: SourceSetup<Input, ChatMessageSettings> = {
  input: Input,
  prepare: async (ports, { name, ...settings }) => {
    if (!(await ports.isConnected(settings.connectionId))) return trouble('This chat network is no longer connected.');
    if (settings.when === 'words' && settings.words.trim() === '')
      return trouble('Write at least one word the message has to have.');
    return { ok: true, name, settings, card: CARD };
  },
  choices: async (ports, { query }) => {
    const forms = (await ports.chatForms()).filter(({ name }) => name.toLowerCase().includes(query.toLowerCase()));
    return { ok: true, choices: forms.map(({ id, name }) => ({ id, label: name })), next: null };
  },
};
