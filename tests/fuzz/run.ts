/**
 * npm run fuzz -- [--minutes 1] [--seed N]: every reader with texts made to break it, and every door that is open to everybody with requests made to
 * break it, against the built application. Ends with 1 at the first reader or door that fails, stands still or takes longer than it may; the seed
 * is printed, so that it can be gone through again.
 */
import { setTimeout as sleep } from 'node:timers/promises';
import { parseArgs } from 'node:util';
import fc from 'fast-check';
import { PIECES } from '../stage/attack-texts.ts';
import { mochaHooks } from '../stage/postgres.ts';
import { READERS } from '../stage/readers.ts';
import { openStage } from '../stage/stage.ts';

const { values: o } = parseArgs({
  options: {
    minutes: { type: 'string', default: '1' },
    seed: { type: 'string', default: String(Date.now() % 2 ** 31) },
  },
});
const until = Date.now() + Number(o.minutes) * 60_000;
let seed = Number(o.seed);
/** Milliseconds: a reader for what fits into a form, and /healthz while somebody attacks. */
const LONGEST_READ = 2000;
const LONGEST_HEALTH = 2000;

const piece = fc.oneof(
  fc.constantFrom(...PIECES.map(([, text]) => text)).chain((text) => fc.nat(4000).map((size) => text(size))),
  fc.string({ unit: 'binary', maxLength: 200 }),
  fc.string({ maxLength: 200 }),
  fc.constantFrom(
    '\0',
    '\ud800',
    '\r\n\r\n',
    '{{',
    '}}',
    '%00',
    '__proto__',
    'constructor',
    '<!DOCTYPE x [<!ENTITY a "b">]>',
    '﻿',
  ),
);
const text = fc.array(piece, { maxLength: 6 }).map((all) => all.join(''));

/** What a reader may say of a text it does not take: an error of its own making or its library's, and never one that tells of a slip. */
const isSlip = (error: unknown): boolean =>
  (error instanceof TypeError || error instanceof RangeError || error instanceof ReferenceError) &&
  /^\s+at .*\/src\//.test((error.stack ?? '').split('\n').find((line) => /^\s+at /.test(line)) ?? '');

const stage = await openStage();
const { rows: sources } = await stage.db.query<{ kind: string; key: string }>('select kind, key from source');
const routes = [
  ...sources.map(({ key }) => `/in/${key}`),
  ...sources.filter(({ kind }) => kind === 'form-page').map(({ key }) => `/f/${key}`),
  ...sources.filter(({ kind }) => kind === 'workbook').map(({ key }) => `/files/${key}`),
  ...[
    '/sign-in',
    '/set-up',
    '/leave/xxxxxxxxxxxxxxxxxxxxxxxx',
    '/confirm/xxxxxxxxxxxxxxxxxxxxxxxx',
    '/l/abcdefghi',
    '/o/abcdefghi.gif',
    '/reports/abcdefghijklmnop',
    '/api/leads',
    '/healthz',
  ],
];
const request = fc.record({
  path: fc.constantFrom(...routes),
  query: fc.option(fc.string({ maxLength: 60 }), { nil: '' }),
  method: fc.constantFrom('GET', 'POST', 'PUT', 'DELETE', 'OPTIONS'),
  type: fc.constantFrom(
    'application/json',
    'application/x-www-form-urlencoded',
    'multipart/form-data; boundary=x',
    'application/xml',
    'text/plain',
    'image/gif',
    '',
  ),
  origin: fc.constantFrom(stage.url, 'null', 'nonsense', 'https://evil.example'),
  body: text,
});
let count = 0;
try {
  while (Date.now() < until) {
    console.log(`seed ${seed}`);
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...Object.entries(READERS)), text, async ([name, read], sent) => {
        count += 1;
        const start = performance.now();
        try {
          await read(sent);
        } catch (error) {
          if (isSlip(error)) throw new Error(`${name}: ${(error as Error).stack}`);
        }
        const ms = performance.now() - start;
        if (ms > LONGEST_READ) throw new Error(`${name} took ${Math.round(ms)} ms`);
      }),
      { seed, numRuns: 400 },
    );
    await fc.assert(
      fc.asyncProperty(request, async ({ path, query, method, type, origin, body }) => {
        count += 1;
        const sends = method !== 'GET' && method !== 'OPTIONS';
        const answer = await fetch(`${stage.url}${path}${query ? `?${encodeURI(query.toWellFormed())}` : ''}`, {
          method,
          redirect: 'manual',
          headers: { origin, ...(type ? { 'content-type': type } : {}) },
          ...(sends ? { body: Buffer.from(body) } : {}),
          signal: AbortSignal.timeout(20_000),
        });
        await answer.arrayBuffer();
        if (answer.status >= 500) throw new Error(`${method} ${path} answered ${answer.status}`);
        const start = performance.now();
        const health = await fetch(`${stage.url}/healthz`);
        await health.arrayBuffer();
        const ms = performance.now() - start;
        if (health.status !== 200 || ms > LONGEST_HEALTH)
          throw new Error(`afterwards /healthz: ${health.status} in ${Math.round(ms)} ms`);
      }),
      { seed, numRuns: 150 },
    );
    seed += 1;
  }
  console.log(`${count} texts and requests, nothing found`);
} catch (error) {
  // The finding itself may be a megabyte of the same letter.
  console.error((error as Error).message.slice(0, 4000), (error as Error).cause ?? '');
  process.exitCode = 1;
} finally {
  await stage.close();
  await mochaHooks.afterAll();
  await sleep(100);
  process.exit();
}
