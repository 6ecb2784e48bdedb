/**
 * When a person did something, from what the sender says: nothing is said of a time that cannot be read (then it counts as unknown, never as just
 * now) or that lies in the future by more than a clock may be off.
 */
export function doneAt(said: string | undefined): { doneAt?: string | null } {
  if (said === undefined) return {};
  const at = Date.parse(said);
  return { doneAt: Number.isFinite(at) ? new Date(at).toISOString() : null };
}
