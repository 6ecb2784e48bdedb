import { z } from 'zod';
import { ToldInstant } from '../time/told-instant.ts';

/** Somebody has written: what a carrier or a chat network says of it. docs/gateways.md. */
export const ReceivedReport = z.object({
  id: z.string().min(1).max(200),
  from: z.string().max(60),
  to: z.string().max(60),
  text: z.string().max(5000),
  /** It was tapped, not typed. */
  button: z.boolean().default(false),
  /** What they call themselves there. */
  name: z.string().max(200).default(''),
  at: ToldInstant,
});
export type ReceivedReport = z.infer<typeof ReceivedReport>;

/** Somebody has sent the answers of a form in chat. */
export const FormReport = z.object({
  id: z.string().min(1).max(200),
  from: z.string().max(60),
  to: z.string().max(60),
  form: z.string().max(200),
  token: z.string().max(200),
  answers: z.record(z.string().max(100), z.string().max(5000)),
  at: ToldInstant,
});
export type FormReport = z.infer<typeof FormReport>;

/** What came in by chat, as a source listens to it. */
export type ChatReport = { type: 'chat.received'; data: ReceivedReport } | { type: 'chat.form'; data: FormReport };

export const ChatReport: z.ZodType<ChatReport> = z.discriminatedUnion('type', [
  z.object({ type: z.literal('chat.received'), data: ReceivedReport }),
  z.object({ type: z.literal('chat.form'), data: FormReport }),
]);
