import { compareShares } from '../statistics/two-shares.ts';
import { wilson } from '../statistics/wilson.ts';

/** How far somebody can have come, in the order in which it usually goes. Nobody has to have been at one to be at a later one. */
export const STAGES = ['came', 'answered', 'replied', 'booked', 'kept', 'sold'] as const;
export type Stage = (typeof STAGES)[number];

export const STAGE_WORDS: Readonly<Record<Stage, { label: string; stops: string }>> = {
  came: { label: 'Came in', stops: 'were never answered' },
  answered: { label: 'Answered', stops: 'did not write back' },
  replied: { label: 'Replied', stops: 'wrote back, and booked nothing' },
  booked: { label: 'Booked', stops: 'booked, and did not come' },
  kept: { label: 'Came to it', stops: 'came, and bought nothing' },
  sold: { label: 'Bought', stops: '' },
};

/** Of a group of leads, by stage: how many were ever at it, for how many it was the last, and how long after they came in (milliseconds). */
export interface StageCount {
  reached: number;
  furthest: number;
  median: number | null;
  ninety: number | null;
}
export type StageCounts = Record<Stage, StageCount>;

export interface ShownStage extends StageCount {
  stage: Stage;
  /** Of those who came in; with its range of 95 %. */
  share: number;
  low: number;
  high: number;
}

/** The way of a group, stage by stage. Empty where nobody came. */
export function wayOf(counts: StageCounts): ShownStage[] {
  const of = counts.came.reached;
  if (of === 0) return [];
  return STAGES.map((stage) => {
    const did = counts[stage].reached;
    return { stage, ...counts[stage], share: did / of, ...wilson({ did, of })! };
  });
}

/** Where most of them stop, of those that have not bought; null where nobody stops anywhere. */
export function stopsMost(way: readonly ShownStage[]): ShownStage | null {
  const stops = way.filter(({ stage, furthest }) => stage !== 'sold' && furthest > 0);
  return stops.sort((a, b) => b.furthest - a.furthest)[0] ?? null;
}

/** Whether a group's share at a stage is above or below that of all the others together, beyond chance. */
export function apartFromRest(group: StageCounts, all: StageCounts, stage: Stage): 'up' | 'down' | null {
  const rest = { did: all[stage].reached - group[stage].reached, of: all.came.reached - group.came.reached };
  const { larger } = compareShares({ did: group[stage].reached, of: group.came.reached }, rest);
  return larger === 'a' ? 'up' : larger === 'b' ? 'down' : null;
}

export const noCounts = (): StageCounts => {
  const none = { reached: 0, furthest: 0, median: null, ninety: null };
  return {
    ...{ came: { ...none }, answered: { ...none }, replied: { ...none } },
    ...{ booked: { ...none }, kept: { ...none }, sold: { ...none } },
  };
};
