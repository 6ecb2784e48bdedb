import type { APIContext, APIRoute } from 'astro';
import type { z } from 'zod';
import { Refusal, refusalOf } from '../app/refusal.ts';
import { openUse, type Use, type Write } from '../app/use.ts';
import { keepWithin } from '../app/wall.ts';
import { failureStack } from '../failure-words.ts';
import { nestsDeeperThan } from '../sources/body/read-body.ts';
import { databaseAway, isDatabaseAway } from './database-away.ts';

/** The use case's surroundings for a request that is signed in. */
export function surroundings(context: Pick<APIContext, 'locals' | 'request'>): Use {
  const { runtime, actor } = context.locals;
  if (!actor) throw new Refusal(401, 'signed-out', 'You are signed out. Sign in and try again.');
  return openUse(runtime, actor, context.request.headers.get('if-match')?.replace(/^"(.*)"$/, '$1') ?? null);
}

/** An error as problem details (RFC 9457). */
export function problemResponse(error: unknown): Response {
  if (isDatabaseAway(error)) return databaseAway('/api/');
  const known = refusalOf(error);
  if (!known) console.error(failureStack(error));
  const body = {
    type: `urn:pine-bell:${known?.code ?? 'failed'}`,
    title: known?.code.replaceAll('-', ' ') ?? 'failed',
    status: known?.status ?? 500,
    detail:
      known?.message ??
      'Something went wrong here and was noted. Nothing you entered before was lost; try again in a moment.',
    ...known?.more,
  };
  return new Response(JSON.stringify(body), {
    status: body.status,
    headers: { 'content-type': 'application/problem+json' },
  });
}

export const json = (value: unknown, status = 200): Response =>
  new Response(JSON.stringify(value ?? null), {
    status,
    headers: { 'content-type': 'application/json', 'cache-control': 'no-store' },
  });

const MOST = 2 * 1024 * 1024;

const tooBig = () => new Refusal(413, 'too-big', 'That is more than can be saved at once.');

/** The text of a body, counted as it comes: a body in chunks says nothing of its length. */
async function readText(request: Request): Promise<string> {
  if (Number(request.headers.get('content-length') ?? 0) > MOST) throw tooBig();
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > MOST) throw tooBig();
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString('utf8');
}

/** Deeper than this nothing of ours nests. */
const DEEPEST = 100;

async function readInput<S extends z.ZodType>(use: Use, request: Request, schema: S): Promise<z.infer<S>> {
  const text = await readText(request);
  if (nestsDeeperThan(text, DEEPEST))
    throw new Refusal(422, 'too-deep', `It is nested more than ${DEEPEST} levels deep.`);
  let value: unknown;
  try {
    // Nothing sent is nothing chosen: what has a default gets it.
    value = JSON.parse(text || '{}');
  } catch {
    throw new Refusal(400, 'not-json', 'The request is not valid JSON.');
  }
  // As it was read, so that no way of writing something in JSON gets past.
  const read = JSON.stringify(value);
  if (/\\u0000|\\ud[89a-f]/.test(read))
    throw new Refusal(
      422,
      'character',
      'A character in it cannot be kept: U+0000, or half of one that is written as two. Take it out and save again.',
    );
  await keepWithin(use, read + new URL(request.url).searchParams);
  const result = schema.safeParse(value);
  if (!result.success) {
    const issue = result.error.issues[0];
    throw new Refusal(422, 'input', `${issue?.message ?? 'Something is missing'}.`, {
      field: issue?.path.join('.') ?? '',
    });
  }
  return result.data;
}

/** An API route that reads a body by its schema, does one use case, and answers JSON. */
export function takes<S extends z.ZodType>(
  schema: S,
  act: (use: Use, input: z.infer<S>, params: Record<string, string>) => Promise<unknown>,
): APIRoute {
  return async (context) => {
    try {
      const use = surroundings(context);
      return json(
        await act(use, await readInput(use, context.request, schema), context.params as Record<string, string>),
      );
    } catch (error) {
      return problemResponse(error);
    }
  };
}

/** The same for a use case that changes something: it is one transaction. */
export const changes = <S extends z.ZodType>(
  schema: S,
  act: (tx: Write, input: z.infer<S>, params: Record<string, string>) => Promise<unknown>,
): APIRoute => takes(schema, (use, input, params) => use.write((tx) => act(tx, input, params)));

/** An API route without a body. */
export function gives(
  act: (use: Use, params: Record<string, string>, query: URLSearchParams) => Promise<unknown>,
): APIRoute {
  return async (context) => {
    try {
      const use = surroundings(context);
      const { searchParams } = new URL(context.request.url);
      await keepWithin(use, searchParams.toString());
      return json(await act(use, context.params as Record<string, string>, searchParams));
    } catch (error) {
      return problemResponse(error);
    }
  };
}

/** The same for a use case that changes something: it is one transaction. */
export const does = (
  act: (tx: Write, params: Record<string, string>, query: URLSearchParams) => Promise<unknown>,
): APIRoute => gives((use, params, query) => use.write((tx) => act(tx, params, query)));

/** An API route that is sent a file as it is, its name in the query. */
export function takesFile(
  most: number,
  act: (
    use: Use,
    file: { name: string; bytes: Buffer; tab: string | null },
    params: Record<string, string>,
  ) => Promise<unknown>,
): APIRoute {
  return async (context) => {
    try {
      const use = surroundings(context);
      const { request, params } = context;
      const tooBig = () =>
        new Refusal(
          422,
          'too-big',
          `The file is larger than ${Math.round(most / 1048576)} MB. Split it, or leave out what is not needed.`,
        );
      if (Number(request.headers.get('content-length') ?? 0) > most) throw tooBig();
      const chunks: Uint8Array[] = [];
      let size = 0;
      for await (const chunk of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
        size += chunk.length;
        if (size > most) throw tooBig();
        chunks.push(chunk);
      }
      const asked = new URL(request.url).searchParams;
      await keepWithin(use, asked.toString());
      const name = (asked.get('name') ?? '').slice(0, 200);
      const file = { name, bytes: Buffer.concat(chunks), tab: asked.get('tab') };
      return json(await act(use, file, params as Record<string, string>));
    } catch (error) {
      return problemResponse(error);
    }
  };
}
