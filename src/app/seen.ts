import { createHash } from 'node:crypto';
import { changedMeanwhile } from './refusal.ts';
import type { Use } from './use.ts';

/** The same content in the same words: the database keeps JSON in an order of its own. */
export const inOrder = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(inOrder)
    : value !== null && typeof value === 'object' && !(value instanceof Date)
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([key, inner]) => [key, inOrder(inner)]),
        )
      : value;

/** A short name for what somebody looks at, the same for the same content: a strong validator (RFC 9110 §8.8.1). */
export const seenAs = (content: unknown): string =>
  createHash('sha256')
    .update(JSON.stringify(inOrder(content)))
    .digest('base64url')
    .slice(0, 20);

/**
 * Refuses to write over what a colleague has changed since it was looked at. `content` is what stands there now, read under a lock. Whoever does not
 * say what they saw is not asked.
 */
export function refuseUnseen({ seen }: Use, what: string, content: unknown): void {
  if (seen !== null && seen !== seenAs(content)) throw changedMeanwhile(what);
}
