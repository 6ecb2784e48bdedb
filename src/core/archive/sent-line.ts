import { z } from 'zod';

/** What came in, as it was sent. */
export interface Sent {
  id: string;
  receivedAt: Date;
  headers: Record<string, string>;
  body: Uint8Array;
}

/**
 * One arrival as a line of an archive file (docs/archive.md): JSON, the body as `text` where it is text in UTF-8, as `base64` where it is not.
 */
const Line = z
  .object({
    id: z.uuid(),
    receivedAt: z.iso.datetime(),
    headers: z.record(z.string(), z.string()),
    text: z.string().optional(),
    base64: z.base64().optional(),
  })
  .refine((line) => (line.text === undefined) !== (line.base64 === undefined), 'either text or base64');

const Head = z.object({ archive: z.literal('arrivals'), version: z.number().int().min(1), month: z.iso.date() });
export const ARCHIVE_VERSION = 1;

/** The first line of an archive file; `month` is its first day. */
export const headLine = (month: string): string =>
  `${JSON.stringify({ archive: 'arrivals', version: ARCHIVE_VERSION, month })}\n`;

/** What the first line says, or why the file cannot be read. */
export function readHead(line: string): { ok: true; month: string } | { ok: false; problem: string } {
  const head = Head.safeParse(parsed(line));
  if (!head.success)
    return { ok: false, problem: 'This is no archive of arrivals: choose a file that was downloaded here.' };
  if (head.data.version > ARCHIVE_VERSION)
    return {
      ok: false,
      problem: 'This archive was written by a newer Pine Bell. Update this one, then read it again.',
    };
  return { ok: true, month: head.data.month };
}

const strict = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

/** The line of an arrival, with its line end. */
export function sentLine({ id, receivedAt, headers, body }: Sent): string {
  let as: { text: string } | { base64: string };
  try {
    as = { text: strict.decode(body) };
  } catch {
    as = { base64: Buffer.from(body).toString('base64') };
  }
  return `${JSON.stringify({ id, receivedAt: receivedAt.toISOString(), headers, ...as })}\n`;
}

/** The arrival of a line; null when it is none. */
export function readSentLine(line: string): Sent | null {
  const read = Line.safeParse(parsed(line));
  if (!read.success) return null;
  const { id, receivedAt, headers, text, base64 } = read.data;
  return {
    id,
    receivedAt: new Date(receivedAt),
    headers,
    body: text === undefined ? Buffer.from(base64!, 'base64') : Buffer.from(text, 'utf8'),
  };
}

function parsed(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return null;
  }
}
