import { ToldInstant } from '../time/told-instant.ts';

/**
 * When a person did something, from what the sender says: nothing is said of a time that cannot be read (then it counts as unknown, never as just
 * now).
 */
export function doneAt(said: string | undefined): { doneAt?: string | null } {
  if (said === undefined) return {};
  return { doneAt: ToldInstant.safeParse(said).success ? new Date(said).toISOString() : null };
}
