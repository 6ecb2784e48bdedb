import type { LearntField, SampleView } from '../../app/sources/arrivals.ts';
import type { LeadCard } from '../../core/source/lead-card.ts';
import { SAMPLE } from '../../core/source/sample.ts';

/** An arrival with the lead card we would guess from it. */
export type Caught = SampleView & { guess: LeadCard };

/** What is known of a source's arrivals all together. */
export interface Learnt {
  fields: LearntField[];
  days: { day: string; read: number; other: number }[];
}

const PILLS: Record<Caught['state'], { label: string; tone: string }> = {
  read: { label: 'Lead', tone: 'good' },
  held: { label: 'Kept', tone: 'warn' },
  refused: { label: 'Not understood', tone: 'bad' },
  aside: { label: 'Kept out', tone: '' },
};

/** What became of an arrival, in a word. */
export const pillOf = (pick: Pick<Caught, 'state' | 'problem'>) =>
  pick.problem === SAMPLE ? { label: 'Sample', tone: '' } : PILLS[pick.state];
