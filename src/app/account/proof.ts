import { z } from 'zod';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import type { From } from './session.ts';
import { provePassword } from './sign-in.ts';

/** How long somebody who has proved who they are need not do so again, for what is dangerous. */
const FRESH_MS = 10 * 60_000;

/** For what is dangerous: somebody may sit at a screen that was left open. */
export function demandProof({ actor, runtime }: Pick<Use, 'actor' | 'runtime'>): void {
  if (runtime.now() - actor.provedAt > FRESH_MS)
    throw new Refusal(403, 'prove', 'Type your password once more: this is nothing for a screen that was left open.');
}

export const Proof = z.object({ password: z.string().max(1000) });

/** Proves by their password that it is still they who sit there. */
export async function prove(use: Use, { password }: z.infer<typeof Proof>, from: From): Promise<void> {
  const { runtime, actor } = use;
  if (!(await provePassword(runtime, { email: actor.email, password, from })))
    throw new Refusal(422, 'wrong', 'This is not your password. If you have none here, sign out and in again.');
  await runtime.pool.query('update session set proved_at = $2 where id = $1', [
    actor.sessionId,
    new Date(runtime.now()),
  ]);
}
