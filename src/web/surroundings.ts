import type { APIContext } from 'astro';
import { Refusal } from '../app/refusal.ts';
import { openUse, type Use } from '../app/use.ts';

/** The use case's surroundings for a request that is signed in. */
export function surroundings(context: Pick<APIContext, 'locals' | 'request'>): Use {
  const { runtime, actor } = context.locals;
  if (!actor) throw new Refusal(401, 'signed-out', 'You are signed out. Sign in and try again.');
  return openUse(runtime, actor, context.request.headers.get('if-match')?.replace(/^"(.*)"$/, '$1') ?? null);
}
