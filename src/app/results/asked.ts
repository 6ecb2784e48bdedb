import { z } from 'zod';
import { MODELS } from '../../core/results/models.ts';
import { daysIn, type Period, READY_PERIODS, type ReadyPeriod, readyPeriod, UNITS } from '../../core/results/period.ts';
import { SORTED_BY, type SortedBy } from '../../core/results/sortings.ts';
import { dayOf } from '../../core/time/day-of.ts';
import type { Actor } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import { askedGroup, type Group } from './group.ts';

const Day = z.iso.date('Give a day as YYYY-MM-DD').refine((day) => day >= '2000-01-01' && day <= '2199-12-31', {
  message: 'Give a day between 2000 and 2199',
});

const Query = z.object({
  period: z.enum(Object.keys(READY_PERIODS) as [ReadyPeriod, ...ReadyPeriod[]]).optional(),
  from: Day.optional(),
  to: Day.optional(),
  model: z.enum(MODELS).default('first'),
  by: z.enum(Object.keys(SORTED_BY) as [SortedBy, ...SortedBy[]]).default('campaign'),
  basis: z.enum(['came', 'happened']).default('came'),
  /** What the chart goes by; left out, what can be read best. */
  unit: z.enum(UNITS).optional(),
  goal: z
    .string()
    .regex(/^[a-z_]{1,20}$|^(?:own|stage):[0-9a-f-]{36}$/, 'There is no such outcome')
    .default('booked'),
});

export interface AskedResults extends Omit<z.infer<typeof Query>, 'from' | 'to'> {
  days: Period;
  today: string;
}

/** How much is looked at in one go: what is more is asked for in parts. */
const MOST_DAYS = 3700;

/** What is asked of results, out of the address of their page. Refused, with a reason, where it makes no sense. */
export function askedResults(query: URLSearchParams, actor: Actor, now: number): AskedResults {
  const given = Object.fromEntries([...query].filter(([key, value]) => value !== '' && key in Query.shape));
  const read = Query.safeParse(given);
  if (!read.success) throw new Refusal(422, 'not-understood', read.error.issues[0]!.message);
  const { from, to, period, ...rest } = read.data;
  const today = dayOf(now, actor.timeZone);
  let days = readyPeriod(period ?? 'last-28', today);
  if (from || to) days = { from: from ?? days.from, to: to ?? today };
  if (days.from > days.to) throw new Refusal(422, 'days', 'The first day lies after the last. Change one of them.');
  if (daysIn(days) > MOST_DAYS) throw new Refusal(422, 'days', 'That is more than ten years. Choose fewer days.');
  const ready = from || to ? {} : { period: period ?? ('last-28' as const) };
  return { ...rest, ...ready, days, today };
}

/** The same for a page: an address that makes no sense shows the usual days of everybody. */
export function askedOrUsual(
  query: URLSearchParams,
  actor: Actor,
  now: number,
): { of: AskedResults; group: Group; search: string } {
  try {
    return { of: askedResults(query, actor, now), group: askedGroup(query), search: query.toString() };
  } catch {
    return { of: askedResults(new URLSearchParams(), actor, now), group: { of: 'all' }, search: '' };
  }
}
