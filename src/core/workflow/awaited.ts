import { saysOneOf } from '../message/says-one-of.ts';
import type { Awaited } from './at.ts';

/** What a run under way waits for: a moment's event, as the run sheet says it. Empty for "any". */
export interface WaitsFor {
  event: Awaited;
  words: string;
  sources: string[];
  tag: string;
  list: string;
  stage: string;
  step: string;
}

/** Something that happened with a lead. Arrivals are told where they are stored (db/hot/accept.sql.ts). */
export type Happening =
  | { event: 'reply'; text: string }
  | { event: 'tag'; tag: string }
  | { event: 'list'; list: string }
  | { event: 'stage'; stage: string }
  | { event: 'link'; runId: string; stepId: string; url: string }
  | { event: 'opened'; runId: string; stepId: string }
  /** `text` is all of it in words; `runId` is empty for a form that no run has sent. */
  | { event: 'form'; runId: string; stepId: string; answers: Record<string, string>; text: string }
  /** `answer` is null when they were asked as often as was allowed and no answer fitted. */
  | { event: 'answer'; runId: string; stepId: string; answer: string | null; text: string };

/**
 * What becomes of a wait by something that happened: the fields of "what happened" for the steps after it, or null when this
 * is not what was waited for.
 */
export function cameOf(waits: WaitsFor, runId: string, happening: Happening): Record<string, string> | null {
  if (waits.event !== happening.event) return null;
  switch (happening.event) {
    case 'reply':
      return saysOneOf(happening.text, waits.words) ? { it: 'yes', text: happening.text } : null;
    case 'tag':
      return waits.tag === happening.tag ? { it: 'yes' } : null;
    case 'list':
      return waits.list === happening.list ? { it: 'yes' } : null;
    case 'stage':
      return waits.stage === happening.stage ? { it: 'yes' } : null;
    case 'link':
      return ours(waits, runId, happening) ? { it: 'yes', url: happening.url } : null;
    case 'opened':
      return ours(waits, runId, happening) ? { it: 'yes' } : null;
    case 'form':
      return ours(waits, runId, happening) ? { ...happening.answers, it: 'yes', text: happening.text } : null;
    case 'answer':
      if (!ours(waits, runId, happening)) return null;
      return happening.answer === null
        ? { it: 'no', text: happening.text }
        : { it: 'yes', answer: happening.answer, text: happening.text };
  }
}

const ours = (waits: WaitsFor, runId: string, sent: { runId: string; stepId: string }): boolean =>
  sent.runId === runId && (waits.step === '' || waits.step === sent.stepId);
