// An ad platform with 50 forms: each holds 20 entries, and every answer takes 50 ms.
import { createServer } from 'node:http';

const FORMS = 50;
const ENTRIES = 20;
const forms = Array.from({ length: FORMS }, (_, i) => ({
  id: `form-${i}`,
  name: `Form ${i}`,
  page: { id: 'page', name: 'Page' },
  live: true,
}));
const entry = (form, n) => ({
  id: `${form}-${n}`,
  form: { id: form, name: form },
  page: { id: 'page', name: 'Page' },
  answers: [
    { key: 'name', value: `Ada ${n} Venn` },
    { key: 'email', value: `${form}.${n}@example.org` },
    { key: 'phone', value: '' },
  ],
});

const server = createServer((request, response) => {
  const url = new URL(request.url, 'http://platform');
  const form = /^\/forms\/([^/]+)\/entries$/.exec(url.pathname)?.[1];
  let body = { forms };
  if (form) {
    const after = Number(url.searchParams.get('after') || 0);
    const newest = url.searchParams.has('newest');
    const from = newest ? ENTRIES : after;
    const limit = newest ? 0 : Number(url.searchParams.get('limit') ?? 100);
    const entries = Array.from({ length: Math.max(0, Math.min(limit, ENTRIES - from)) }, (_, i) =>
      entry(form, from + i + 1),
    );
    body = {
      entries,
      // A source that begins with new ones only begins before the 20 that come while it is polled.
      cursor: newest ? '0' : String(from + entries.length),
      held: { count: Math.max(0, ENTRIES - from), firstExpiresAt: null },
    };
  }
  setTimeout(() => {
    response.writeHead(200, { 'content-type': 'application/json' });
    response.end(JSON.stringify(body));
  }, 50);
});
server.listen(0, '127.0.0.1', () => console.log(`ready ${JSON.stringify({ port: server.address().port })}`));
process.on('SIGTERM', () => process.exit(0));
