import type { Rules } from '../workflow/rules.ts';

/** How long after they came in somebody still expects an answer, milliseconds. Common practice, no source. */
export const EXPECTS_FOR_MS = 15 * 60_000;

/** What decides whether a message may go at once, outside the hours in which others go. */
export interface JustCameIn {
  rules: Pick<Rules, 'answerAtOnce'>;
  /** The first moment of the sheet, On arrival. */
  onArrival: boolean;
  /** News and offers wait in any case. */
  marketing: boolean;
  /** When they came in by their own doing, milliseconds; null for what a colleague, a table or a backlog brought. */
  cameAt: number | null;
  /** Milliseconds. */
  now: number;
}

/** Whether somebody waits for this very message: they have just filled in a form or written, and it answers that. */
export const answeredAtOnce = ({ rules, onArrival, marketing, cameAt, now }: JustCameIn): boolean =>
  rules.answerAtOnce && onArrival && !marketing && cameAt !== null && Math.abs(now - cameAt) < EXPECTS_FOR_MS;
