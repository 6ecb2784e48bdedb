export const codeOf = (error: unknown) => (error as { code?: string }).code ?? '';

/** PostgreSQL's codes for "somebody else was quicker, try again": deadlock_detected, serialization_failure. */
export const collided = (error: unknown, tries: number) =>
  ['40P01', '40001'].includes(codeOf(error)) && tries < 3 ? 5 : null;

/**
 * A statement the server refused carries a five-character SQLSTATE; class 57 (it is shutting down) and 08 (connection) and
 * errors without one mean that it could not be asked.
 */
const unreachable = (error: unknown) => !/^[0-9A-Z]{5}$/.test(codeOf(error)) || /^(57|08|53)/.test(codeOf(error));

/** What has been sent must be noted: a restarting database is waited for, about eight seconds, well inside a lease. */
export const patient = (error: unknown, tries: number) =>
  collided(error, tries) ?? (unreachable(error) && tries < 8 ? Math.min(2000, 100 * 2 ** tries) : null);
