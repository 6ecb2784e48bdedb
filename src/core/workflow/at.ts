import { z } from 'zod';
import { SPAN_UNITS } from '../time/span.ts';
import { CLOCK_TIME } from '../time/zone.ts';

const Span = z.object({ amount: z.number().int().min(1).max(1000), unit: z.enum(SPAN_UNITS) });
const Clock = z.string().regex(CLOCK_TIME, 'Write the time as 09:00');
/** Whose clock: the lead's, or the business's where theirs is not known. */
const Whose = z.enum(['lead', 'business']);

/** What a moment can wait for. */
export const AWAITED = ['reply', 'answer', 'form', 'link', 'opened', 'arrival', 'tag', 'list', 'stage'] as const;
export type Awaited = (typeof AWAITED)[number];

/** When a moment begins. Every moment but the first counts from when the one above it began. */
export const At = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('on_arrival') }),
  z.object({ kind: z.literal('later'), span: Span }),
  z.object({
    kind: z.literal('time_of_day'),
    time: Clock,
    /** `soonest`: today if it is still to come; `next_day`: never today. */
    day: z.enum(['soonest', 'next_day']),
    /** Not on Saturdays, Sundays and the business's holidays. */
    workingDays: z.boolean(),
    whose: Whose,
  }),
  z.object({
    kind: z.literal('on_date'),
    /** Reference of the field with the date. */
    field: z.string().max(200),
    side: z.enum(['on', 'before', 'after']),
    span: Span,
    /** Null: at the time the field says. */
    time: Clock.nullable(),
    whose: Whose,
    /** When that moment has passed already. */
    ifPassed: z.enum(['skip', 'at_once']),
  }),
  z.object({
    kind: z.literal('event'),
    event: z.enum(AWAITED),
    /** For a reply: one of these words, one per line; empty for any reply. */
    words: z.string().max(1000),
    /** For an arrival: by which sources; empty for any. For a tag: its id. */
    sources: z.array(z.uuid()).max(50),
    tag: z.string().max(60),
    /** For a list joined or a stage reached: its id. */
    list: z.string().max(60).default(''),
    stage: z.string().max(60).default(''),
    /** For an answer or a form: the step that asks. For a link or an opened email: the step that sent it; empty for any of this sheet. */
    step: z.string().max(40).default(''),
    within: Span,
  }),
]);
export type At = z.infer<typeof At>;

/** Waiting for any reply for two days: what a moment that waits begins as. */
export const ANY_REPLY: Extract<At, { kind: 'event' }> = {
  kind: 'event',
  event: 'reply',
  words: '',
  sources: [],
  tag: '',
  list: '',
  stage: '',
  step: '',
  within: { amount: 2, unit: 'days' },
};
