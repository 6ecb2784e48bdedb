/** How PostgreSQL and its driver say that it is not there, is going, coming up, full or out of room (its manual, appendix A: classes 08, 53, 57). */
const AWAY = /^(08...|53...|57P0[1-5]|ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT)$/;
const AWAY_WORDS = /connection terminated|timeout exceeded when trying to connect|connection ended unexpectedly/i;

/** Whether something failed because the database is away, and not because of what was asked. */
export function isDatabaseAway(error: unknown): boolean {
  for (
    let one = error as { code?: unknown; message?: unknown; cause?: unknown } | null;
    one;
    one = one.cause as typeof one
  ) {
    if (AWAY.test(String(one.code)) || AWAY_WORDS.test(String(one.message))) return true;
    if (typeof one !== 'object') return false;
  }
  return false;
}

const RETRY_SECONDS = 5;
const WORDS = 'Pine Bell cannot reach its records just now. What you entered before is safe. It tries again by itself.';

/** What is told meanwhile: to a program as a problem (RFC 9457), to a person as a page that comes back by itself. */
export function databaseAway(path: string): Response {
  const headers = { 'retry-after': String(RETRY_SECONDS), 'cache-control': 'no-store' };
  if (path.startsWith('/api/'))
    return new Response(JSON.stringify({ type: 'urn:pine-bell:away', title: 'away', status: 503, detail: WORDS }), {
      status: 503,
      headers: { ...headers, 'content-type': 'application/problem+json' },
    });
  return new Response(
    `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><meta http-equiv="refresh" content="${RETRY_SECONDS}"><title>One moment · Pine Bell</title></head><body><main><h1>One moment</h1><p>${WORDS}</p></main></body></html>`,
    {
      status: 503,
      headers: {
        ...headers,
        'content-type': 'text/html; charset=utf-8',
        'content-security-policy': "default-src 'none'; frame-ancestors 'none'; base-uri 'none'",
      },
    },
  );
}
