/** The web process: pages and API by the built Astro handler, intake and reports by hand, because they are the hot path. */
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { isSetUp, setUpCode } from '../app/account/sign-in.ts';
import { leaveByOneClick } from '../app/lists/leaving.ts';
import { Refusal } from '../app/refusal.ts';
import { awaitsFiles, dropFile } from '../app/sources/workbook-files.ts';
import { MOST_BYTES } from '../engine/intake/intake.ts';
import { log } from '../log.ts';
import { getRuntime } from '../runtime.ts';
import { stopWithParent } from '../stop-with-parent.ts';
import { MOST_FILE_BYTES } from '../tables/table.ts';
import { answerParent } from '../watched.ts';
import { BUSINESS_HEADER } from '../web/business-header.ts';
import { refusedAtTheBorder, takeForm } from './border.ts';
import { knownHost } from './known-host.ts';
import { mailListener } from './mail-listener.ts';
import { builtPages, pagesBeingWritten } from './pages.ts';
import { readRequestBody } from './request-body.ts';

const runtime = await getRuntime();
const awaitsOwner = !(await isSetUp(runtime));
const { settings, intake, reports, conductor } = runtime;

const isOurs = knownHost(settings.publicUrl, settings.moreHosts);

const HOOK = /^\/(in|reports|costs)\/([A-Za-z0-9_-]{10,80})\/?(?:\?|$)/;
/** Never kept with an arrival: they are keys, not evidence. */
const SECRET_HEADERS = new Set(['authorization', 'cookie', 'proxy-authorization']);

function plainHeaders(request: IncomingMessage): Record<string, string> {
  const headers: Record<string, string> = {};
  for (const [name, value] of Object.entries(request.headers))
    if (value !== undefined && !SECRET_HEADERS.has(name))
      headers[name] = Array.isArray(value) ? value.join(', ') : value;
  return headers;
}

function answer(response: ServerResponse, status: number, body: Record<string, unknown>, retryAfter?: number): void {
  const text = JSON.stringify(body);
  response.writeHead(status, {
    'content-type': status >= 400 ? 'application/problem+json' : 'application/json',
    'content-length': Buffer.byteLength(text),
    ...(retryAfter === undefined ? {} : { 'retry-after': String(retryAfter) }),
  });
  response.end(text);
}

const problem = (
  response: ServerResponse,
  status: number,
  code: string,
  detail: string,
  more: Record<string, unknown> = {},
  retryAfter?: number,
) =>
  answer(
    response,
    status,
    { type: `urn:pine-bell:${code}`, title: code.replaceAll('-', ' '), status, detail, ...more },
    retryAfter,
  );

/** What follows is not read: the connection is closed once the answer is out. */
function refuseUnread(
  request: IncomingMessage,
  response: ServerResponse,
  status: number,
  code: string,
  detail: string,
): void {
  response.setHeader('connection', 'close');
  problem(response, status, code, detail);
  setTimeout(() => request.destroy(), 500).unref();
}

/** What a service says when its events were taken, or asks to see whether the address is ours; nothing of it is ever a page. */
function sayPlainly(response: ServerResponse, status: number, said: string): void {
  response.writeHead(status, {
    'content-type': 'text/plain; charset=utf-8',
    'x-content-type-options': 'nosniff',
    'content-length': Buffer.byteLength(said),
  });
  response.end(said);
}

async function takeHook(kind: string, key: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  if (kind === 'in' && request.method === 'GET') {
    const query = Object.fromEntries(new URL(request.url ?? '/', 'http://here').searchParams);
    const echoed = await intake.handshake(key, query);
    if (echoed !== null) return sayPlainly(response, 200, echoed);
  }
  if (request.method !== 'POST' && !(kind === 'reports' && request.method === 'GET')) {
    response.setHeader('allow', 'POST');
    return problem(response, 405, 'method', 'Only POST is taken at this address.');
  }
  const body = await readRequestBody(request, MOST_BYTES);
  if (body === 'too-big')
    return refuseUnread(request, response, 413, 'too-big', 'The body is larger than 1 MiB. Send one lead at a time.');
  if (body === 'broken-off') return;
  const headers = plainHeaders(request);
  // A service may prove itself by it; it is looked at, and not kept.
  const { authorization = '' } = request.headers;
  if (kind === 'reports') {
    const query = Object.fromEntries(new URL(request.url ?? '/', 'http://here').searchParams);
    const reply = await reports.receive(key, {
      method: request.method,
      headers: { ...headers, authorization },
      body,
      query,
    });
    if (reply.said) return sayPlainly(response, reply.status, reply.said);
    if (reply.status < 300) return answer(response, reply.status, { ok: true });
    return problem(response, reply.status, 'report', reply.problem ?? '', {}, reply.status === 503 ? 5 : undefined);
  }
  if (kind === 'costs') {
    const took = await runtime.costFeeds.receive(key, body);
    if (took.status === 200) return answer(response, 200, { lines: took.lines });
    return problem(response, took.status, took.status === 404 ? 'no-such-feed' : 'costs', took.problem);
  }
  const raw = { headers, contentType: headers['content-type'] ?? '', body };
  const reply = await intake.receive(key, raw, 'hook', authorization);
  if (reply.status === 202 && reply.said) return sayPlainly(response, reply.said.status, reply.said.body);
  if (reply.status === 202)
    return answer(response, 202, { id: reply.arrivalId, repeat: reply.repeat, count: reply.count });
  problem(
    response,
    reply.status,
    reply.code,
    reply.problem,
    reply.arrivalId ? { arrival: reply.arrivalId } : {},
    reply.retryAfter,
  );
}

const DROP = /^\/files\/([A-Za-z0-9_-]{10,80})\/?(?:\?|$)/;

/** A script drops a workbook off. */
async function takeFile(key: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  if (request.method !== 'PUT' && request.method !== 'POST') {
    response.setHeader('allow', 'PUT, POST');
    return problem(response, 405, 'method', 'Send the file by PUT.');
  }
  // Nothing is read for whoever has made an address up.
  const unawaited = 'No file is awaited at this address. Copy it again from the source.';
  if (!(await awaitsFiles(runtime, key))) return refuseUnread(request, response, 404, 'no-such-source', unawaited);
  const body = await readRequestBody(request, MOST_FILE_BYTES);
  if (body === 'broken-off') return;
  const larger = 'The file is larger than 40 MB. Split it, or leave out what is not needed.';
  if (body === 'too-big') return refuseUnread(request, response, 413, 'too-big', larger);
  try {
    const kept = await dropFile(runtime, key, body);
    if (kept) return answer(response, 202, kept);
    problem(response, 404, 'no-such-source', unawaited);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    problem(response, error.status, error.code, error.message);
  }
}

/** Longest the database may take to be called well, in milliseconds. */
const LONGEST_DATABASE_MS = 2000;
let asking: Promise<boolean> | null = null;

/** Whether the database answers just now; asked once for all who want to know at the same time. */
function databaseAnswers(): Promise<boolean> {
  asking ??= Promise.race([
    runtime.pool.query('select 1').then(
      () => true,
      () => false,
    ),
    new Promise<boolean>((resolve) => setTimeout(() => resolve(false), LONGEST_DATABASE_MS).unref()),
  ]).finally(() => {
    asking = null;
  });
  return asking;
}

const SITE = /^\/site\/([A-Za-z0-9_-]{10,80})\/?(?:\?|$)/;
const MOST_VISIT = 16 * 1024;
/** Pages of the business are elsewhere; what they are told is nothing. */
const ANY_PAGE = { 'access-control-allow-origin': '*', 'cache-control': 'no-store' };

/** A page of a business says that somebody came to it: public/visits.js. */
async function takeVisit(key: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  if (request.method !== 'POST') {
    response.writeHead(405, { ...ANY_PAGE, allow: 'POST' }).end();
    return;
  }
  const body = await readRequestBody(request, MOST_VISIT);
  if (body === 'broken-off') return;
  if (body === 'too-big') return refuseUnread(request, response, 413, 'too-big', 'More was sent than a visit says.');
  const status = await runtime.siteVisits.receive(key, body, String(request.headers['user-agent'] ?? ''));
  response.writeHead(status, ANY_PAGE).end();
}

const SHORT = /^\/([lo])\/([0-9A-Za-z]{1,20})(?:\.gif)?(?:\?|$)/;
/** One transparent point (GIF89a). */
const POINT = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64');

/** A link in a message is followed, or the picture in an email asked for. What cannot be counted just now is not held up by it. */
async function takeShort(
  kind: string,
  token: string,
  request: IncomingMessage,
  response: ServerResponse,
): Promise<void> {
  const visitor = {
    method: request.method ?? 'GET',
    agent: String(request.headers['user-agent'] ?? ''),
    purpose: String(request.headers['sec-purpose'] ?? request.headers.purpose ?? ''),
  };
  const never = { 'cache-control': 'no-store', 'referrer-policy': 'no-referrer' };
  if (kind === 'o') {
    await runtime.followed
      .opened(token, visitor)
      .catch((error: Error) => log.error({ scope: 'links', err: error }, 'an opening was not counted'));
    response.writeHead(200, { ...never, 'content-type': 'image/gif', 'content-length': POINT.length });
    response.end(POINT);
    return;
  }
  const url = await runtime.followed.follow(token, visitor);
  if (url === null) {
    response.writeHead(302, { ...never, location: '/not-here' });
    response.end();
    return;
  }
  response.writeHead(302, { ...never, location: url });
  response.end();
}

const LEAVE = /^\/leave\/([\w-]{20,100})$/;

/** The button of a mail program (RFC 8058): one POST, no page, no cookie. A GET never takes anybody off anything. */
async function takeOneClick(token: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  const body = await readRequestBody(request, 10_000);
  if (body === 'broken-off') return;
  const longer = 'More was sent than one click says. Send List-Unsubscribe=One-Click.';
  if (body === 'too-big') return refuseUnread(request, response, 413, 'too-big', longer);
  // As a form, or as parts (RFC 8058 §3.1).
  if (!/List-Unsubscribe(=|"\s+)One-Click/.test(body.toString('latin1')))
    return problem(response, 400, 'not-one-click', 'Send List-Unsubscribe=One-Click.');
  if (!(await leaveByOneClick(runtime, token)))
    return problem(response, 404, 'no-such-link', 'This link is not known.');
  answer(response, 200, { ok: true });
}

/** Without proxies to trust, what a caller says about its address, host and protocol is not believed. */
function settleForwarding(request: IncomingMessage): void {
  const peer = (request.socket.remoteAddress ?? '').replace(/^::ffff:/, '');
  const said = String(request.headers['x-forwarded-for'] ?? '')
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean);
  const chain = [...said, peer];
  request.headers['x-forwarded-for'] = chain[Math.max(0, chain.length - 1 - settings.proxies)]!;
  if (settings.proxies === 0)
    for (const name of ['x-forwarded-proto', 'x-forwarded-host', 'x-forwarded-port']) delete request.headers[name];
}

const AT = /^\/at\/([a-z0-9-]{1,40})(?=\/|\?|$)/;

/** A page within a business, "/at/wrenfield/leads": the pages see "/leads", and beside it which business is meant. */
function settleBusiness(request: IncomingMessage): void {
  delete request.headers[BUSINESS_HEADER];
  const [whole, key] = AT.exec(request.url ?? '') ?? [];
  if (!whole || !key) return;
  request.headers[BUSINESS_HEADER] = key;
  const rest = request.url!.slice(whole.length);
  request.url = rest.startsWith('/') ? rest : `/${rest}`;
}

const server = createServer({ requestTimeout: 30_000, headersTimeout: 10_000 }, (request, response) => {
  if (request.url !== '/healthz' && !isOurs(request.headers.host))
    return problem(
      response,
      421,
      'another-host',
      `Pine Bell answers at ${settings.publicUrl}. Whoever runs it can say so if it has other names: PINEBELL_URL, PINEBELL_HOSTS.`,
    );
  const refused = refusedAtTheBorder(request);
  if (refused) return problem(response, refused.status, refused.code, refused.detail);
  const hook = HOOK.exec(request.url ?? '');
  if (hook) {
    takeHook(hook[1]!, hook[2]!, request, response).catch((error) => {
      log.error({ scope: 'intake', err: error }, 'what came was not taken');
      if (!response.headersSent) problem(response, 503, 'failed', 'Something went wrong here. Send it again.', {}, 5);
    });
    return;
  }
  const drop = DROP.exec(request.url ?? '');
  if (drop) {
    takeFile(drop[1]!, request, response).catch((error) => {
      log.error({ scope: 'files', err: error }, 'a file was not taken');
      if (!response.headersSent) problem(response, 503, 'failed', 'Something went wrong here. Send it again.', {}, 5);
    });
    return;
  }
  const visit = SITE.exec(request.url ?? '');
  if (visit) {
    takeVisit(visit[1]!, request, response).catch((error) => {
      log.error({ scope: 'visits', err: error }, 'a visit was not taken');
      if (!response.headersSent) response.writeHead(503, ANY_PAGE).end();
    });
    return;
  }
  const short = SHORT.exec(request.url ?? '');
  if (short) {
    takeShort(short[1]!, short[2]!, request, response).catch((error) => {
      log.error({ scope: 'links', err: error }, 'a link led nowhere');
      if (!response.headersSent)
        problem(response, 503, 'failed', 'Something went wrong here. Try the link again.', {}, 5);
    });
    return;
  }
  const leave = request.method === 'POST' ? LEAVE.exec(request.url ?? '') : null;
  if (leave) {
    takeOneClick(leave[1]!, request, response).catch((error) => {
      log.error({ scope: 'leaving', err: error }, 'somebody could not leave');
      if (!response.headersSent) problem(response, 503, 'failed', 'Something went wrong here. Send it again.', {}, 5);
    });
    return;
  }
  if (request.url === '/healthz') {
    void databaseAnswers().then((there) =>
      answer(response, there ? 200 : 503, { ok: there, database: there ? 'answers' : 'does not answer' }),
    );
    return;
  }
  settleForwarding(request);
  settleBusiness(request);
  // A form of theirs is read by them.
  if (settings.pagesUrl) return pages(request, response);
  takeForm(request, response)
    .then((wrong) => (wrong ? problem(response, wrong.status, wrong.code, wrong.detail) : pages(request, response)))
    // Whatever goes wrong with one request, the others are answered.
    .catch((error: Error) => {
      log.error({ scope: 'pages', err: error }, 'a request was not answered');
      if (response.headersSent) response.destroy();
      else problem(response, 503, 'failed', 'Something went wrong here. Send it again.', {}, 5);
    });
});
const pages = settings.pagesUrl ? pagesBeingWritten(settings.pagesUrl, server) : await builtPages();
server.keepAliveTimeout = 60_000;
server.listen(settings.port, settings.host, () => {
  conductor.loop.start(2000);
  for (const loop of runtime.outbox.loops) loop.start(2000);
  const address = server.address();
  process.stdout.write(
    `ready ${JSON.stringify({ port: typeof address === 'object' ? address?.port : settings.port, pid: process.pid, ...(awaitsOwner ? { setUpCode: setUpCode(runtime) } : {}) })}\n`,
  );
});

const mail = settings.mailPort === 0 ? null : mailListener(runtime);
// Another process of ours may have the port already; the web goes on without it.
mail?.on('error', (error: Error) => log.error({ scope: 'mail', err: error }, 'the mail listener'));
mail?.listen(settings.mailPort, settings.mailHost);

let stopping = false;
async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  server.close();
  mail?.close();
  server.closeIdleConnections();
  setTimeout(() => server.closeAllConnections(), 1000).unref();
  await runtime.close();
  process.exit(0);
}
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.on(signal, () => void stop());
stopWithParent(() => void stop());
answerParent();
