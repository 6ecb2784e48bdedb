import { refusalOf } from '../app/refusal.ts';
import { log } from '../log.ts';
import { databaseAway, isDatabaseAway } from './database-away.ts';

/** An error as problem details (RFC 9457). */
export function problemResponse(error: unknown): Response {
  if (isDatabaseAway(error)) return databaseAway('/api/');
  const known = refusalOf(error);
  if (!known) log.error({ scope: 'screens', err: error }, 'a use case failed');
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
