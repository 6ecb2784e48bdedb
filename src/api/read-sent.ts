import type { z } from 'zod';
import { Refusal } from '../app/refusal.ts';
import { nestsDeeperThan } from '../core/json.ts';
import { readAs } from '../core/read-as.ts';

/** Bytes of JSON that may be sent. */
const MOST_JSON = 2 * 1024 * 1024;
/** Deeper than this nothing of ours nests. */
const DEEPEST = 100;

const tooBig = (most: number) =>
  new Refusal(
    413,
    'too-big',
    `That is more than ${Math.round(most / 1048576)} MB, more than can be taken at once. Split it, or leave out what is not needed.`,
  );

/** A body, counted as it comes: one in chunks says nothing of its length. */
export async function readBytes(request: Request, most: number): Promise<Buffer> {
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooBig(most);
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > most) throw tooBig(most);
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

/** The JSON of a body, as it was sent and written anew: so that no way of writing something in JSON gets past. */
export async function readJson(request: Request): Promise<{ value: unknown; text: string }> {
  const text = (await readBytes(request, MOST_JSON)).toString('utf8');
  if (nestsDeeperThan(text, DEEPEST))
    throw new Refusal(422, 'too-deep', `It is nested more than ${DEEPEST} levels deep.`);
  let value: unknown;
  try {
    // Nothing sent is nothing chosen: what has a default gets it.
    value = JSON.parse(text || '{}');
  } catch {
    throw new Refusal(400, 'not-json', 'The request is not valid JSON.');
  }
  const written = JSON.stringify(value);
  if (/\\u0000|\\ud[89a-f]/.test(written))
    throw new Refusal(
      422,
      'character',
      'A character in it cannot be kept: U+0000, or half of one that is written as two. Take it out and save again.',
    );
  return { value, text: written };
}

/** What was sent, by its schema; the first thing that does not fit is refused by name. */
export function bySchema<S extends z.ZodType>(schema: S, value: unknown): z.output<S> {
  const result = readAs(schema, value);
  if (result.success) return result.data;
  const issue = result.error.issues[0];
  throw new Refusal(422, 'input', `${issue?.message ?? 'Something is missing'}.`, {
    field: issue?.path.join('.') ?? '',
  });
}
