import { Temporal } from 'temporal-polyfill';
import { wallClock } from './zone.ts';

export const SPAN_UNITS = ['seconds', 'minutes', 'hours', 'days', 'weeks', 'months'] as const;
export type SpanUnit = (typeof SPAN_UNITS)[number];
export interface Span {
  amount: number;
  unit: SpanUnit;
}

const MS: Partial<Record<SpanUnit, number>> = { seconds: 1000, minutes: 60_000, hours: 3_600_000 };

/**
 * An instant moved by a span. Seconds, minutes and hours are elapsed time; days, weeks and months keep the wall-clock time of
 * `zone`, so that "a day later" is the same hour over a change of clocks. A day the month does not have becomes its last.
 */
export function addSpan(instant: number, { amount, unit }: Span, zone: string, direction: 1 | -1 = 1): number {
  const ms = MS[unit];
  if (ms !== undefined) return instant + direction * amount * ms;
  const duration = Temporal.Duration.from({ [unit]: direction * amount });
  return wallClock(instant, zone).add(duration).epochMilliseconds;
}

/** "10 minutes", "1 day". */
export const spanWords = ({ amount, unit }: Span): string => `${amount} ${amount === 1 ? unit.slice(0, -1) : unit}`;
