import { z } from 'zod';
import { CLOCK_TIME } from '../time/zone.ts';

const Clock = z.string().regex(CLOCK_TIME, 'Write the time as 09:00');
const Hours = z.object({ from: Clock, to: Clock }).nullable();

/** What is done when somebody this workflow has already run for comes in again by one source. */
export const SAME_PERSON_DOES = ['nothing', 'update_only', 'run_again_after', 'run_again'] as const;
export type SamePersonDoes = (typeof SAME_PERSON_DOES)[number];
/** The same as a rule; `by_source` goes by what the source brings: people once, each order, booking and row by itself. */
export const SAME_PERSON = ['by_source', ...SAME_PERSON_DOES] as const;

/** The rule for one source. `eachCounts` as its kind says. */
export const samePersonDoes = (rule: (typeof SAME_PERSON)[number], eachCounts: boolean): SamePersonDoes =>
  rule === 'by_source' ? (eachCounts ? 'run_again' : 'update_only') : rule;

/** What ends a run early. */
export const ENDS = ['reply', 'stop', 'booked', 'bought'] as const;
export type Ends = (typeof ENDS)[number];

/** 08:00 to 21:00 by the called party's clock: 47 CFR §64.1200(c)(1). */
export const TEXT_HOURS = { from: '08:00', to: '21:00' };

/** A workflow's standing rules. */
export const Rules = z.object({
  samePerson: z.enum(SAME_PERSON),
  /** For `run_again_after`. */
  againAfterDays: z.number().int().min(1).max(3650).default(30),
  /** Whether only earlier runs by the same source make somebody known. */
  knownBy: z.enum(['workflow', 'source']).default('workflow'),
  /** When messages to leads may go out, by channel; null for at any time. Held ones go out at the opening. */
  hours: z
    .object({ text: Hours, email: Hours, chat: Hours.default(null) })
    .default({ text: null, email: null, chat: null }),
  /**
   * Whoever has come in this minute by their own doing is answered at once, whatever the hour: messages of the moment On arrival that are no
   * news and no offer (core/time/answered-at-once.ts).
   */
  answerAtOnce: z.boolean().default(true),
  /** A message that is held for its hours holds what stands below it in its lane as well. */
  holdsLane: z.boolean().default(false),
  endsWhen: z.array(z.enum(ENDS)).max(ENDS.length).default([]),
  /** Tags that end a run early when the lead gets one of them, by id. */
  endsTags: z.array(z.string().max(60)).max(20).default([]),
  /** Most runs of this workflow worked on at the same time; null for no limit of its own. */
  mostAtOnce: z.number().int().min(1).max(200).nullable().default(null),
  /** Who is told by email of what needs a person, and how often at most. */
  tell: z
    .object({ colleague: z.string().max(60), every: z.enum(['each', 'hour', 'day']) })
    .nullable()
    .default(null),
});
export type Rules = z.infer<typeof Rules>;
