import { timingSafeEqual } from 'node:crypto';
import { hmacSha256 } from '../signing/hmac-sha256.ts';

/** Whom a link is for: one lead, and one list or every email. */
export interface ListLink {
  leadId: string;
  /** Null for every email. */
  listId: string | null;
}

/** What a link does: leave, or say yes to being put on the list. */
export type LinkPurpose = 'leave' | 'confirm';

const MAC_BYTES = 12;
const idBytes = (id: string | null) => Buffer.from((id ?? '').replaceAll('-', '').padEnd(32, '0'), 'hex');
const idText = (bytes: Buffer): string =>
  bytes.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
const macOf = (key: Uint8Array, purpose: LinkPurpose, body: Buffer) =>
  hmacSha256(key, `${purpose}:`, body).subarray(0, MAC_BYTES);

/**
 * The part of an address that lets its holder leave a list or confirm one, without signing in: the two ids and 96 bits of their
 * HMAC-SHA256. It can be read only whole, and for the purpose it was made for.
 */
export function makeListLink(key: Uint8Array, purpose: LinkPurpose, { leadId, listId }: ListLink): string {
  const body = Buffer.concat([idBytes(leadId), idBytes(listId)]);
  return Buffer.concat([body, macOf(key, purpose, body)]).toString('base64url');
}

/** Whom a link is for; null when it is not one of ours, or was changed. */
export function readListLink(key: Uint8Array, purpose: LinkPurpose, token: string): ListLink | null {
  const bytes = Buffer.from(token, 'base64url');
  if (bytes.length !== 32 + MAC_BYTES || bytes.toString('base64url') !== token) return null;
  const body = bytes.subarray(0, 32);
  if (!timingSafeEqual(bytes.subarray(32), macOf(key, purpose, body))) return null;
  const list = body.subarray(16);
  return { leadId: idText(body.subarray(0, 16)), listId: list.every((byte) => byte === 0) ? null : idText(list) };
}
