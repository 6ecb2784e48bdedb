import { z } from 'zod';
import type { SourceSetup } from '../source-module.ts';
import type { WebhookSettings } from './definition.ts';

const Input = z.object({
  name: z.string().trim().min(1, 'Give the source a name').max(100),
  signed: z.boolean(),
});
type Input = z.infer<typeof Input>;

/** Nothing to arrange outside: the address is given to the other side by hand. */
export const webhookSetup: SourceSetup<Input, WebhookSettings> = {
  input: Input,
  prepare: async (_ports, input) => ({
    ok: true,
    name: input.name,
    settings: { signed: input.signed, lists: 'each' },
  }),
};
