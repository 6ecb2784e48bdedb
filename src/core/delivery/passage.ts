import type { Answer } from './answer.ts';
import { type RetryRule, retryDelayMs } from './backoff.ts';

/** A message that is about to leave, as far as it matters for whether it may. */
export interface Leaving<Why> {
  /** Why it does not go at all: they want no more of its kind, or what it is part of was stopped. */
  stop: Why | null;
  /** When the hours let it go, milliseconds since 1970; null when they do now. */
  opensAt: number | null;
  /** It is news: it takes one of those a person gets in a day. */
  news: boolean;
  /** Parts of a text that are taken from the day's; 0 where none are, as for a second try. */
  parts: number;
}

/** What counts messages for everybody, asked last and only of what would go otherwise: what is taken there is gone. */
export interface Counters {
  news(): Promise<boolean>;
  parts(parts: number): Promise<boolean>;
}

/** Milliseconds since 1970: when news may go again, and when the day's texts are looked at again. */
export interface Later {
  tomorrow: number;
  soon: number;
}

export type Passage<Why> =
  | { may: 'go' }
  | { may: 'not'; why: Why }
  | { may: 'later'; at: number; held: 'hours' | 'news' | 'parts' };

/** What is written beside a message that is held. */
export const HELD_WORDS: Record<Extract<Passage<never>, { may: 'later' }>['held'], string> = {
  hours: 'Held for the hours in which messages may go out',
  news: 'Held until tomorrow: they have had as many news and offers as one person gets in a day',
  parts: 'Held: as many texts as were set for a day have gone out today (Settings)',
};

/**
 * Whether a message may leave now. Their wish first, then the hours, then what is counted: nothing is taken from a day's count for a message that
 * does not go. The same for what a run sends and for what goes out apart from one.
 */
export async function passageOf<Why>(leaving: Leaving<Why>, counters: Counters, later: Later): Promise<Passage<Why>> {
  if (leaving.stop !== null) return { may: 'not', why: leaving.stop };
  if (leaving.opensAt !== null) return { may: 'later', at: leaving.opensAt, held: 'hours' };
  if (leaving.news && !(await counters.news())) return { may: 'later', at: later.tomorrow, held: 'news' };
  if (leaving.parts > 0 && !(await counters.parts(leaving.parts)))
    return { may: 'later', at: later.soon, held: 'parts' };
  return { may: 'go' };
}

export type Outcome =
  | { is: 'accepted'; remoteId: string | null }
  | { is: 'again'; at: number }
  | { is: 'refused'; detail: string }
  /** Nobody can tell whether it went out: it is not sent again by itself. */
  | { is: 'unsure'; detail: string };

/**
 * What becomes of a message after an answer. `tries` counts this one; `since` is when its first began. Given up, it says after how many, and what
 * was said last.
 */
export function outcomeOf(
  answer: Answer,
  { rule, tries, since, now, random }: { rule: RetryRule; tries: number; since: number; now: number; random: number },
): Outcome {
  if (answer.kind === 'accepted') return { is: 'accepted', remoteId: answer.remoteId };
  if (answer.kind === 'refused') return { is: 'refused', detail: answer.detail };
  if (answer.kind === 'unsure') return { is: 'unsure', detail: answer.detail };
  const at = now + retryDelayMs(rule, tries - 1, answer.afterMs, random);
  return at - since <= rule.giveUpAfterMs
    ? { is: 'again', at }
    : { is: 'refused', detail: `Given up after ${tries} tries: ${answer.detail}` };
}
