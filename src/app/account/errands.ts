import { createHash, randomBytes } from 'node:crypto';
import type { Runtime } from '../../runtime.ts';

export type ErrandKind = 'key-new' | 'key-use' | 'second' | 'sign-on' | 'access';

const idOf = (token: string) => createHash('sha256').update(token).digest('base64url');

/** Notes what somebody has begun; gives what only their browser holds. */
export async function beginErrand(
  runtime: Runtime,
  kind: ErrandKind,
  what: Record<string, string>,
  minutes = 10,
): Promise<string> {
  const token = randomBytes(32).toString('base64url');
  await runtime.pool.query('insert into errand (id, kind, what, expires_at) values ($1, $2, $3, $4)', [
    ...[idOf(token), kind, what, new Date(runtime.now() + minutes * 60_000)],
  ]);
  return token;
}

/** What was begun, without ending it; null when nothing was, or too long ago. */
export async function lookAtErrand(
  runtime: Runtime,
  kind: ErrandKind,
  token: string | undefined,
): Promise<Record<string, string> | null> {
  const { rows } = await runtime.pool.query<{ what: Record<string, string> }>(
    'select what from errand where id = $1 and kind = $2 and expires_at > $3',
    [idOf(token ?? ''), kind, new Date(runtime.now())],
  );
  return rows[0]?.what ?? null;
}

/** Ends it and gives what it was: of two at once, one gets nothing. */
export async function endErrand(
  runtime: Runtime,
  kind: ErrandKind,
  token: string | undefined,
): Promise<Record<string, string> | null> {
  const { rows } = await runtime.pool.query<{ what: Record<string, string> }>(
    'delete from errand where id = $1 and kind = $2 and expires_at > $3 returning what',
    [idOf(token ?? ''), kind, new Date(runtime.now())],
  );
  return rows[0]?.what ?? null;
}
