import { createHmac, timingSafeEqual } from 'node:crypto';
import { parse, stringify } from 'uuid';
import type { Machinery } from '../../machinery.ts';

/** What a link of ours is for: each has a key of its own, so that none opens what another is for. */
export type LinkPurpose = 'invitation' | 'password';

const SIGNATURE = 43;

const sign = (secrets: Machinery['secrets'], purpose: LinkPurpose, id: string, round: number) =>
  createHmac('sha256', secrets.derive(`link-${purpose}`))
    .update(`${id} ${round}`)
    .digest('base64url');

/** The token of a link: which row it is about, signed by us (HMAC-SHA-256). Made anew it is the same, until its row says another round. */
export const linkToken = (secrets: Machinery['secrets'], purpose: LinkPurpose, id: string, round = 0): string =>
  `${Buffer.from(parse(id)).toString('hex')}${sign(secrets, purpose, id, round)}`;

/** The id in a token, which says nothing of whether we have signed it; null where there is none. */
export function idInToken(token: string): string | null {
  const found = /^([0-9a-f]{32})[\w-]{43}$/.exec(token);
  try {
    return found ? stringify(Buffer.from(found[1]!, 'hex')) : null;
  } catch {
    return null;
  }
}

/** Whether we have signed this token for this row and round. */
export function isOurs(
  secrets: Machinery['secrets'],
  purpose: LinkPurpose,
  token: string,
  { id, round = 0 }: { id: string; round?: number },
): boolean {
  const given = Buffer.from(token.slice(-SIGNATURE));
  const expected = Buffer.from(sign(secrets, purpose, id, round));
  return idInToken(token) === id && given.length === expected.length && timingSafeEqual(given, expected);
}
