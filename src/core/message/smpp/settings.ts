import { z } from 'zod';
import { LETTERS } from './outgoing.ts';

/** How a carrier wants texts that are handed over by SMPP. */
export const SmppSettings = z.object({
  letters: z.enum(LETTERS).default('gsm'),
  /** Texts handed over in a second at most; 0 for as many as there are. */
  perSecond: z.number().int().min(0).max(1000, 'At most 1,000 texts a second are sent').default(0),
  /** Texts handed over and not answered yet, at most. */
  window: z.number().int().min(1).max(500, 'At most 500 texts may wait for an answer').default(10),
});
export type SmppSettings = z.infer<typeof SmppSettings>;
