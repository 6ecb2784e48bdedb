/**
 * node --import tsx bench/hostile.ts [--seconds 5]: how /healthz answers while each single attack goes on, four at a time, against the built
 * application; and how what each reader costs grows with what is sent, to 1 MiB.
 */
import { fork } from 'node:child_process';
import { connect } from 'node:net';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { deliveryId } from '../src/engine/delivery/delivery-id.ts';
import { PIECES } from '../tests/stage/attack-texts.ts';
import { mochaHooks } from '../tests/stage/postgres.ts';
import { READERS } from '../tests/stage/readers.ts';
import { adEntry, openStage, push, signedIn } from '../tests/stage/stage.ts';
import { workbook } from '../tests/stage/workbook.ts';

const { values: o } = parseArgs({ options: { seconds: { type: 'string', default: '5' } } });
const SENDERS = 4;

/** What a sender has to know of the application it attacks. */
interface Told {
  url: string;
  mailPort: number;
  open: Parameters<typeof push>[0];
  ad: Parameters<typeof push>[0];
  formKey: string;
  workbookKey: string;
  mailbox: string;
  cookie: string;
  attack: string;
}
const told = JSON.parse(process.env.ATTACK ?? '{}') as Told;

/** A mail handed to our listener from the first line to its answer. */
const mail = (to: string[], text: string): Promise<void> =>
  new Promise((resolve, reject) => {
    const socket = connect(Number(told.mailPort), '127.0.0.1');
    const lines = [
      'EHLO x.example',
      'MAIL FROM:<a@b.example>',
      ...to.map((address) => `RCPT TO:<${address}>`),
      'DATA',
      `${text}\r\n.`,
      'QUIT',
    ];
    socket
      .setEncoding('utf8')
      .on('data', (said: string) => {
        for (const line of said.split('\r\n'))
          if (/^\d{3} /.test(line)) {
            if (/^5\d\d/.test(line) && lines[0]?.startsWith('DATA')) lines.splice(0, 2);
            const next = lines.shift();
            if (next) socket.write(`${next}\r\n`);
          }
      })
      .on('error', reject)
      .on('close', () => resolve());
  });

const sent = (method: string, path: string, body: string | Uint8Array, headers: Record<string, string> = {}) =>
  fetch(told.url + path, {
    method,
    headers: { origin: told.url, ...headers },
    body: body as BodyInit,
    redirect: 'manual',
  }).then(
    (answer) => answer.arrayBuffer().then(() => String(answer.status)),
    // A body that is cut off by the answer: what counts is what others are answered meanwhile.
    () => 'cut off',
  );
const toOpen = (type: string, body: string) => () =>
  push(told.open, body, { 'content-type': type }, null).then((answer) => String(answer.status));
const form = { 'content-type': 'application/x-www-form-urlencoded' };
const signedAs = { cookie: told.cookie, 'content-type': 'application/json' };
const bomb = workbook({ 'xl/worksheets/sheet1.xml': Buffer.alloc(60_000_000, ' ') });
const bounce = (n: number) =>
  `bounce-${deliveryId('01999999-0000-7000-8000-0000000000aa', `s${n}`)}@in.wrenfield.example`;
let count = 0;

const ATTACKS: Record<string, () => Promise<unknown>> = {
  'nothing (for comparison)': () => new Promise((resolve) => setTimeout(resolve, 50)),
  'a form of 500,000 names, 1 MB': toOpen('application/x-www-form-urlencoded', 'a&'.repeat(500_000)),
  'XML of comments that open, 1 MB': toOpen('application/xml', '<!--'.repeat(250_000)),
  'XML of CDATA that opens, 1 MB': toOpen('application/xml', `<r>${'<![CDATA['.repeat(110_000)}</r>`),
  'XML of attributes, 1 MB': toOpen('application/xml', `<r>${'<a b="c" '.repeat(100_000)}`),
  'JSON 500,000 levels deep': toOpen('application/json', '['.repeat(500_000)),
  'JSON of 80,000 fields': toOpen(
    'application/json',
    JSON.stringify(Object.fromEntries(Array.from({ length: 80_000 }, (_, n) => [`f${n}`, 1]))),
  ),
  'form data of boundaries, 1 MB': toOpen('multipart/form-data; boundary=x', '--x\r\n'.repeat(200_000)),
  'a mail line of 100,000 spaces': () =>
    mail([told.mailbox], `From: a@b.example\r\nSubject: x\r\n\r\n${' '.repeat(100_000)}x`),
  'a mail of 2.5 MB to twenty made-up bounces': () =>
    mail(
      Array.from({ length: 20 }, (_, n) => bounce(n)),
      'x\r\n'.repeat(800_000),
    ),
  'a mail of 2.5 MB to a mailbox': () => mail([told.mailbox], `Subject: x\r\n\r\n${'x y <z> '.repeat(300_000)}`),
  'a sign-in form of 60 MB': () => sent('POST', '/sign-in', `email=${'x'.repeat(60_000_000)}`, form),
  'a form page of 60 MB': () => sent('POST', `/f/${told.formKey}`, `email=${'x'.repeat(60_000_000)}`, form),
  'a file of 60 MB for nobody': () => sent('PUT', '/files/made-up-key-of-nobody', new Uint8Array(60_000_000)),
  'a workbook of 60 MB zipped to 60 KB': () => sent('PUT', `/files/${told.workbookKey}`, bomb),
  'passwords guessed': () => sent('POST', '/sign-in', `email=g${count++}%40example.org&password=guess`, form),
  'a thousand forged signatures': () =>
    push(told.ad, adEntry(`forged-${count++}`, { email: 'eve@example.org' }), {}, null).then((a) => String(a.status)),
  'odd bodies of a colleague': () => sent('POST', '/api/tags', `{"name":${'['.repeat(200_000)}`, signedAs),
};

const at = (sorted: number[], share: number) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))]!;

/** Milliseconds of processor time, the better of three: what other work on the machine takes is not counted. */
async function cost(read: (text: string) => unknown, text: string): Promise<number> {
  let best = Number.POSITIVE_INFINITY;
  for (let i = 0; i < 3; i++) {
    globalThis.gc?.();
    const start = process.cpuUsage();
    await Promise.resolve()
      .then(() => read(text))
      .catch(() => undefined);
    const { user, system } = process.cpuUsage(start);
    best = Math.min(best, (user + system) / 1000);
  }
  return best;
}

/** In a process of its own, so that what it costs to send does not stand in the figures of who is answered. */
if (process.send) {
  const end = performance.now() + Number(o.seconds) * 1000;
  const answered: Record<string, number> = {};
  const send = async () => {
    while (performance.now() < end) {
      const status = String((await ATTACKS[told.attack]!().catch((error: Error) => error.message)) ?? 'over');
      answered[status] = (answered[status] ?? 0) + 1;
    }
  };
  await Promise.all(Array.from({ length: SENDERS }, send));
  process.send(answered);
  process.disconnect();
} else await measure();

async function measure(): Promise<void> {
  const stage = await openStage();
  const oona = await signedIn(stage);
  const open = await stage.source('Open day sign-in');
  const ad = await stage.source('Trial lesson form');
  const keyOf = async (kind: string): Promise<string> =>
    (await stage.db.query(`select key from source where kind = $1 limit 1`, [kind])).rows[0].key;
  const [formKey, workbookKey] = [await keyOf('form-page'), await keyOf('workbook')];
  const { body: box } = await oona.call<{ address: string }>('POST', '/api/sources', { kind: 'mailbox', name: 'Box' });
  const mailbox = box.address.replace(/^mailto:/, '');

  const everything: Omit<Told, 'attack'> = {
    ...{ url: stage.url, mailPort: Number(stage.env.PINEBELL_MAIL_PORT), open, ad, formKey, workbookKey, mailbox },
    cookie: oona.cookie,
  };
  console.log(`| attack, ${SENDERS} at a time for ${o.seconds} s | answered | healthz p50 ms | p95 ms | most ms |`);
  console.log('| --- | --- | --- | --- | --- |');
  try {
    for (const attack of Object.keys(ATTACKS)) {
      const sender = fork(fileURLToPath(import.meta.url), process.argv.slice(2), {
        env: { ...process.env, ATTACK: JSON.stringify({ ...everything, attack } satisfies Told) },
        execArgv: ['--import', 'tsx'],
      });
      let going = true;
      const finished = new Promise<Record<string, number>>((resolve, reject) =>
        sender.once('message', (answered) => resolve(answered as Record<string, number>)).once('error', reject),
      ).finally(() => {
        going = false;
      });
      await new Promise((resolve) => setTimeout(resolve, 1500));
      const health: number[] = [];
      while (going) {
        const start = performance.now();
        const answer = await fetch(`${stage.url}/healthz`);
        await answer.arrayBuffer();
        health.push(answer.status === 200 ? performance.now() - start : Number.POSITIVE_INFINITY);
        await new Promise((resolve) => setTimeout(resolve, 10));
      }
      const answered = await finished;
      health.sort((a, b) => a - b);
      const said = Object.entries(answered)
        .map(([status, n]) => `${status}: ${n}`)
        .join(', ');
      console.log(
        `| ${attack} | ${said} | ${[at(health, 0.5), at(health, 0.95), health.at(-1)!].map((ms) => ms.toFixed(0)).join(' | ')} |`,
      );
      await new Promise((resolve) => setTimeout(resolve, 500));
    }
  } finally {
    await stage.close();
    await mochaHooks.afterAll();
  }

  const KIB = 1024;
  console.log(
    '\nWhat costs more than 20 ms at 1 MiB, and how it grew from 256 KiB (linear: 4; 2.2 a doubling: 4.84):\n',
  );
  console.log('| reader | text | 256 KiB ms | 1 MiB ms | factor |\n| --- | --- | --- | --- | --- |');
  let worst = 0;
  for (const [reader, read] of Object.entries(READERS))
    for (const [name, text] of PIECES) {
      const large = await cost(read, text(1024 * KIB));
      if (large < 20) continue;
      const small = await cost(read, text(256 * KIB));
      const factor = large / small;
      worst = Math.max(worst, factor);
      if (factor > 4.4)
        console.log(`| ${reader} | ${name} | ${small.toFixed(1)} | ${large.toFixed(1)} | ${factor.toFixed(2)} |`);
    }
  console.log(`\nthe largest factor: ${worst.toFixed(2)}`);
  process.exit(0);
}
