import { extname } from 'node:path';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { MOST_ATTACHED } from '../../engine/delivery/attachments.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** What a browser may be shown in place; everything else is only ever attached (media types of RFC 2046). */
const PICTURES: Record<string, string> = {
  '.png': 'image/png',
  '.jpg': 'image/jpeg',
  '.jpeg': 'image/jpeg',
  '.gif': 'image/gif',
  '.webp': 'image/webp',
};
const OTHERS: Record<string, string> = {
  '.pdf': 'application/pdf',
  '.txt': 'text/plain',
  '.csv': 'text/csv',
  '.ics': 'text/calendar',
  '.doc': 'application/msword',
  '.docx': 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  '.xlsx': 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  '.pptx': 'application/vnd.openxmlformats-officedocument.presentationml.presentation',
  '.zip': 'application/zip',
  '.mp3': 'audio/mpeg',
  '.mp4': 'video/mp4',
};

export const MOST_FILE = MOST_ATTACHED;

export interface KeptFileView {
  id: string;
  name: string;
  bytes: number;
  /** Whether it can be shown in an email. */
  picture: boolean;
}

/** Keeps a file to be attached to emails or shown in them. */
export async function keepFile(tx: Write, file: { name: string; bytes: Buffer }): Promise<KeptFileView> {
  demand(tx.actor, 'build');
  const name = file.name
    .replace(/[\u0000-\u001f/\\]/g, ' ')
    .trim()
    .slice(0, 200);
  if (name === '' || file.bytes.length === 0) throw new Refusal(422, 'empty', 'The file is empty or has no name.');
  const ending = extname(name).toLowerCase();
  const type = PICTURES[ending] ?? OTHERS[ending] ?? 'application/octet-stream';
  const id = uuidv7();
  await tx.db.query(
    'insert into kept_file (id, business_id, name, type, bytes, content, created_at) values ($1, $2, $3, $4, $5, $6, now())',
    [id, tx.actor.businessId, name, type, file.bytes.length, file.bytes],
  );
  tx.note('file.keep', id, { bytes: file.bytes.length });
  return { id, name, bytes: file.bytes.length, picture: ending in PICTURES };
}

/** A picture shown in emails: everybody who has the address may see it. Null for what is no picture. */
export async function keptPicture(
  pool: Use['runtime']['pool'],
  id: string,
): Promise<{ type: string; content: Buffer } | null> {
  if (!z.uuid().safeParse(id).success) return null;
  const { rows } = await pool.query<{ type: string; content: Buffer }>(
    'select type, content from kept_file where id = $1 and type = any($2)',
    [id, Object.values(PICTURES)],
  );
  return rows[0] ?? null;
}
