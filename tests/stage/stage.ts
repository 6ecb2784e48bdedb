import { randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { startProcess } from '../../scripts/setup/child.mjs';
import { choosePort, isFree } from '../../scripts/setup/ports.mjs';
import { signWebhook } from '../../src/core/signing/standard-webhooks.ts';
import { openSecretBox, type SecretBox } from '../../src/db/secret-box.ts';
import { type Desk, openDesk } from '../../src/practice/desk.ts';
import { serveFile } from '../../src/static-files.ts';
import { copyDatabase, testDatabase } from './postgres.ts';

type Started = ReturnType<typeof startProcess>;

export const SIGN_IN = { email: 'oona@wrenfield.example', password: 'ring-the-bell' };

/** The built application with the practice desk: real processes, real database, real SMTP and HTTP. */
export interface Stage {
  url: string;
  databaseUrl: string;
  desk: Desk;
  db: pg.Pool;
  secrets: SecretBox;
  env: Record<string, string>;
  web: Started;
  worker: Started | null;
  logs: string[];
  /** What whoever started it reads in the console while nobody is here; "" afterwards. */
  setUpCode: string;
  startWeb(): Promise<void>;
  startWorker(): Promise<void>;
  /** A source's intake address and secret by name. */
  source(name: string): Promise<{ id: string; url: string; secret: string }>;
  close(): Promise<void>;
}

export interface StageOptions {
  worker?: boolean;
  /** Two weeks of made-up history too. */
  history?: boolean;
  /** Without the demo business: nobody is here yet, as after the first start; and nothing inside may be called but the practice desk. */
  empty?: boolean;
}

/** The demo business as it was made for a stage: its database, the key that opens its secrets, and the addresses that stand in it. */
interface Made {
  database: string;
  key: Buffer;
  history: boolean;
  token: string;
  ports: Ports;
  /** What the practice desk remembers of it: whom it tells what, signed with which secrets. */
  world: string;
}
interface Ports {
  web: number;
  mail: number;
  desk: number;
  deskMail: number;
}
// On globalThis: the test runner may load this file a second time for its hooks.
const held = globalThis as { pineBellMade?: Made[] };

const portOf = (address: string) => Number(new URL(address).port);

export async function openStage({ worker = true, history = false, empty = false }: StageOptions = {}): Promise<Stage> {
  held.pineBellMade ??= [];
  const alike = empty ? [] : held.pineBellMade.filter((made) => made.history === history);
  // One whose addresses are free again is as it has to be; of any other the demo lines them up.
  let ready: Made | undefined;
  for (const made of alike)
    if (!ready && (await Promise.all(Object.values(made.ports).map(isFree))).every(Boolean)) ready = made;
  const made = ready ?? alike[0];
  // Made once and copied.
  const databaseUrl = made ? await copyDatabase(made.database) : await testDatabase();
  const folder = mkdtempSync(join(tmpdir(), 'pine-bell-stage-'));
  const keyFile = join(folder, 'secret.key');
  if (made) writeFileSync(keyFile, made.key, { mode: 0o600 });
  const port = ready?.ports.web ?? (await choosePort());
  const mailPort = ready?.ports.mail ?? (await choosePort());
  // Apart from the data folder: what is outside remembers people whatever is erased here.
  const worldFile = `${folder}-practice.json`;
  if (ready) writeFileSync(worldFile, ready.world);
  const token = ready?.token ?? randomBytes(12).toString('hex');
  const url = `http://127.0.0.1:${port}`;
  const desk = await openDesk({
    port: ready?.ports.desk ?? 0,
    smtpPort: ready?.ports.deskMail ?? 0,
    token,
    file: worldFile,
    inboundMail: `smtp://127.0.0.1:${mailPort}`,
    backTo: url,
    files: serveFile('build/practice-page'),
  });
  const logs: string[] = [];
  const env = {
    DATABASE_URL: databaseUrl,
    PINEBELL_DATA: folder,
    PINEBELL_PORT: String(port),
    PINEBELL_URL: url,
    PINEBELL_MAIL_PORT: String(mailPort),
    PINEBELL_MAIL_DOMAIN: 'in.wrenfield.example',
    PINEBELL_ALLOW_INSIDE: empty ? '0' : '1',
    PRACTICE_URL: desk.url,
    PRACTICE_SMTP_URL: desk.smtpUrl,
    PRACTICE_TOKEN: token,
    DEMO_HISTORY: history ? '1' : '0',
  };
  const log = (line: string) => logs.push(line);
  if (!ready && !empty) {
    const seed = startProcess('demo', env, { log });
    const { code } = await seed.ended;
    if (code !== 0) throw new Error(`the demo data could not be made:\n${logs.join('\n')}`);
    const ports = { web: port, mail: mailPort, desk: portOf(desk.url), deskMail: portOf(desk.smtpUrl) };
    const kept = { database: await copyDatabase(databaseUrl), key: readFileSync(keyFile) };
    held.pineBellMade.push({ ...kept, history, token, ports, world: JSON.stringify(desk.world.state) });
  }
  const stage = {
    url,
    databaseUrl,
    desk,
    env,
    logs,
    worker: null,
    db: new pg.Pool({ connectionString: databaseUrl, max: 4 }),
    secrets: openSecretBox(undefined, keyFile),
    async startWeb() {
      stage.web = startProcess('web', env, { log });
      try {
        stage.setUpCode = (await stage.web.ready).setUpCode ?? '';
      } catch (error) {
        // What it said last is why.
        throw new Error(`${(error as Error).message}:\n${logs.slice(-8).join('\n')}`);
      }
    },
    async startWorker() {
      stage.worker = startProcess('worker', env, { log });
      await stage.worker.ready;
    },
    async source(name: string) {
      const { rows } = await stage.db.query('select id, key, secret from source where name = $1', [name]);
      return { id: rows[0].id, url: `${url}/in/${rows[0].key}`, secret: stage.secrets.open(rows[0].secret) };
    },
    async close() {
      await Promise.all([stage.web?.stop(), stage.worker?.stop()]);
      await desk.close();
      await stage.db.end();
      rmSync(folder, { recursive: true, force: true });
      rmSync(worldFile, { force: true });
    },
  } as unknown as Stage;
  stage.db.on('error', () => {});
  await Promise.all([stage.startWeb(), worker && stage.startWorker()]);
  return stage;
}

/**
 * Waits until `look` gives something true; says what was waited for when it does not come. How long is no measure of speed: a machine
 * that is shared stands still for seconds at times.
 */
export async function until<T>(
  what: string,
  look: () => Promise<T | null | false | undefined> | T | null | false | undefined,
  ms = 25_000,
): Promise<T> {
  const end = Date.now() + ms;
  for (;;) {
    const found = await look();
    if (found) return found;
    if (Date.now() > end) throw new Error(`waited ${ms} ms in vain for ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 40));
  }
}

export interface EntryAnswers {
  first_name?: string;
  last_name?: string;
  email?: string;
  phone?: string;
  instrument?: string;
  consent?: string;
}

/** A form entry as the ad platform would push it. */
export function adEntry(id: string, answers: EntryAnswers, form = 'form-trial-lesson'): string {
  const all = {
    first_name: 'Nadia',
    last_name: 'Okafor',
    email: 'nadia.okafor@example.com',
    phone: '07700 900142',
    instrument: 'Piano',
    consent: 'true',
    ...answers,
  };
  return JSON.stringify({
    type: 'form.entry',
    entry: {
      id,
      form: { id: form, name: 'Trial lesson' },
      page: { name: 'Wrenfield' },
      ad: { campaign: 'autumn-trial', adSet: 'parents-25km', ad: 'grand-piano-clip' },
      hidden: { utm_source: 'ad-platform' },
      answers: Object.entries(all).map(([key, value]) => ({ key, label: key, value })),
    },
  });
}

export interface Pushed {
  status: number;
  body: { id?: string; repeat?: boolean; detail?: string; type?: string };
}

/** Posts to a source, signed unless told otherwise. */
export async function push(
  source: { url: string; secret: string },
  body: string | Uint8Array,
  headers: Record<string, string> = {},
  signed: { id: string; at?: number; secret?: string } | null = { id: `msg-${Math.random()}` },
): Promise<Pushed> {
  const bytes = typeof body === 'string' ? Buffer.from(body) : body;
  const at = signed?.at ?? Math.floor(Date.now() / 1000);
  const signature = signed
    ? {
        'webhook-id': signed.id,
        'webhook-timestamp': String(at),
        'webhook-signature': signWebhook(signed.secret ?? source.secret, signed.id, at, bytes),
      }
    : {};
  const answer = await fetch(source.url, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...signature, ...headers },
    body: bytes as unknown as BodyInit,
  });
  return { status: answer.status, body: (await answer.json()) as Pushed['body'] };
}

/** A signed-in caller of our own API. */
export async function signedIn(stage: Stage, who = SIGN_IN) {
  const answer = await fetch(`${stage.url}/sign-in`, {
    method: 'POST',
    headers: { origin: stage.url },
    body: new URLSearchParams(who),
    redirect: 'manual',
  });
  const cookie = answer.headers.get('set-cookie')?.split(';')[0] ?? '';
  return {
    cookie,
    async call<T = Record<string, never>>(
      method: string,
      path: string,
      body?: unknown,
    ): Promise<{ status: number; body: T; headers: Headers }> {
      const made = await fetch(stage.url + path, {
        method,
        headers: { cookie, origin: stage.url, 'content-type': 'application/json' },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        redirect: 'manual',
      });
      const text = await made.text();
      return {
        status: made.status,
        headers: made.headers,
        body: (text.startsWith('{') || text.startsWith('[') || text === 'null' ? JSON.parse(text) : text) as T,
      };
    },
  };
}
