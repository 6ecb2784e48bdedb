import { z } from 'zod';

/** What makes a message a success: it must have happened within `days` after it was taken. */
export const TRIAL_GOALS = {
  replied: 'they write back',
  followed: 'they follow a link',
  booked: 'they book an appointment',
} as const;
export type TrialGoal = keyof typeof TRIAL_GOALS;

/** Two versions of a step, tried on halves of those it writes to that are taken by chance. */
export const Trial = z.object({
  /** A new one for every trial: what was sent in an earlier one is not counted in it. */
  id: z.uuid(),
  /** What is different in version B; all else is as in A. */
  settings: z.record(z.string(), z.unknown()),
  goal: z.enum(['replied', 'followed', 'booked']),
  days: z.number().int().min(1).max(60),
  /** Messages of each version before anything is decided; said beforehand, and looked at once. */
  perHalf: z.number().int().min(20).max(100_000),
});
export type Trial = z.infer<typeof Trial>;

export type Version = 'a' | 'b';

/** Kinds of step that can be tried in two versions: those that write something of their own. */
export const TRIED_KINDS: ReadonlySet<string> = new Set(['text', 'email', 'chat']);

/**
 * Which version somebody gets: by chance, and always the same in one trial, whatever run or process asks. FNV-1a over both ids, its bits mixed by the
 * finalizer of MurmurHash3 (Austin Appleby, public domain), of which the top one decides.
 */
export function versionFor(trialId: string, leadId: string): Version {
  let hash = 0x811c9dc5;
  for (const sign of `${trialId} ${leadId}`) hash = Math.imul(hash ^ sign.charCodeAt(0), 0x01000193);
  hash ^= hash >>> 16;
  hash = Math.imul(hash, 0x85ebca6b);
  hash ^= hash >>> 13;
  hash = Math.imul(hash, 0xc2b2ae35);
  hash ^= hash >>> 16;
  return hash >>> 31 === 0 ? 'a' : 'b';
}

interface Tried {
  kind: string;
  settings: Record<string, unknown>;
  trial?: Trial | undefined;
}

/** The step as it is in one of its versions. */
export const inVersion = <S extends Tried>(step: S, version: Version): S =>
  step.trial && version === 'b' ? { ...step, settings: { ...step.settings, ...step.trial.settings } } : step;

/** The step in all its versions. */
export const versionsOf = <S extends Tried>(step: S): S[] => (step.trial ? [step, inVersion(step, 'b')] : [step]);

/** The step as one lead gets it. */
export const stepFor = <S extends Tried>(step: S, leadId: string): S =>
  step.trial && TRIED_KINDS.has(step.kind) ? inVersion(step, versionFor(step.trial.id, leadId)) : step;
