import { z } from 'zod';
import type { SourceSetup } from '../source-module.ts';
import type { MailboxSettings } from './definition.ts';

const only = z.string().trim().max(200).default('');
const Input = z.object({
  name: z.string().trim().min(1, 'Give the source a name').max(100),
  sender: only,
  subject: only,
  text: only,
});
type Input = z.infer<typeof Input>;

export const mailboxSetup: SourceSetup<Input, MailboxSettings> = {
  input: Input,
  prepare: async (_ports, { name, ...settings }) => ({ ok: true, name, settings }),
};
