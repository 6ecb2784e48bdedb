// npm start: Pine Bell for real use. npm run demo: with practice desk and demo business (-- --fresh begins anew). npm run dev: the same, built as one saves.
import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readlinkSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startProcess } from './setup/child.mjs';
import { ensureDebian } from './setup/debian.mjs';
import { ensurePackages } from './setup/packages.mjs';
import { choosePort } from './setup/ports.mjs';
import { startPostgres } from './setup/postgres.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const dev = process.argv.includes('--dev');
const demo = dev || process.argv.includes('--demo');
const folder = resolve(process.env.PINEBELL_DATA ?? join(root, 'data', dev ? 'dev' : demo ? 'demo' : 'live'));
const say = (line) => console.log(line);
const running = [];
/** While one develops: what stands ready to be begun, by name, and what it is to have loaded. */
const standby = new Map();
/** Begins the practice desk, once; for a business of its own when it asks for one. */
let practise = async () => {};
/** It goes on until we stop, and is not begun the next time. */
let practiseNoMore = () => {};
let packagesOf = null;
let postgres = null;
let stopping = null;

/** Two starts on one data folder would spoil each other. A number left by a killed start does not count. */
function takeFolder() {
  mkdirSync(folder, { recursive: true });
  const note = join(folder, 'start.pid');
  if (existsSync(note)) {
    const pid = Number(readFileSync(note, 'utf8'));
    let alive = false;
    try {
      alive =
        pid !== process.pid &&
        readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('start.mjs') &&
        readlinkSync(`/proc/${pid}/cwd`) !== '';
    } catch {
      /* gone */
    }
    if (alive)
      throw new Error(
        `Pine Bell already runs with this data folder (process ${pid}). Stop it first, or set PINEBELL_DATA to another folder.`,
      );
  }
  writeFileSync(note, String(process.pid));
}

function stop(code) {
  stopping ??= (async () => {
    await Promise.all([...running, ...standby.values()].reverse().map((one) => one.stop()));
    postgres?.stop();
    rmSync(join(folder, 'start.pid'), { force: true });
    process.exit(code);
  })();
  return stopping;
}

/** What went wrong and was mended, for *How it is running*; the newest hundred. */
function note(what, more = '') {
  console.error(`[${what}] ${more}`);
  const file = join(folder, 'incidents.jsonl');
  const before = existsSync(file) ? readFileSync(file, 'utf8').split('\n').filter(Boolean).slice(-99) : [];
  try {
    writeFileSync(file, `${[...before, JSON.stringify({ at: new Date().toISOString(), what, more })].join('\n')}\n`, {
      mode: 0o600,
    });
  } catch {
    /* A full disk is what is being told about. */
  }
}

/** How often a process is asked whether it is still there, and how long it may owe an answer, in milliseconds. */
const ASK_EVERY = 2000;
const LONGEST_SILENCE = 10_000;

/** Ends a process that is there and answers nothing: it cannot do so itself. */
function watchOver(name, { child, ended }) {
  // From its first answer on: before that it may not know how.
  let heard = Number.POSITIVE_INFINITY;
  let asked = Date.now();
  child.on('message', (message) => {
    heard = Date.now();
    if (message === 'practice over') practiseNoMore();
    if (message === 'practice') practise().catch((error) => note('practice', error.message));
  });
  const ask = () => child.connected && child.send('there?', () => {});
  ask();
  const timer = setInterval(() => {
    // Stood still ourselves, as while PostgreSQL is started: nobody could be heard meanwhile.
    if (Date.now() - asked > 2 * ASK_EVERY && Number.isFinite(heard)) heard = Date.now();
    asked = Date.now();
    if (Date.now() - heard > LONGEST_SILENCE && !stopping) {
      note(name, 'did not answer for 10 seconds and was ended');
      child.kill('SIGKILL');
    } else ask();
  }, ASK_EVERY);
  ended.then(() => clearInterval(timer));
}

/** Starts PostgreSQL again when it is gone, as often as it takes: killed, or stopped by a full disk. */
async function watchPostgres(env) {
  for (let failed = 0; !stopping; ) {
    await new Promise((r) => setTimeout(r, failed === 0 ? 1000 : Math.min(500 * 2 ** failed, 10_000)));
    if (stopping || postgres.pid() !== null) continue;
    if (failed === 0) note('postgres', 'ended and is started again');
    try {
      const again = await startPostgres(folder);
      if (stopping) return again.stop('immediate');
      postgres = again;
      failed = 0;
      note('postgres', 'is back');
      const url = postgres.url('pinebell');
      if (url === env.DATABASE_URL) continue;
      // Its port was taken meanwhile: whoever has the old address begins anew with the new one.
      env.DATABASE_URL = url;
      for (const one of [...running]) one.child.kill('SIGTERM');
    } catch (error) {
      if (failed === 0) note('postgres', `cannot be started yet and is tried again: ${error.message}`);
      failed += 1;
    }
  }
}

/** Begins the one that stands ready, if there is one. */
function begin(name, env) {
  const ready = standby.get(name);
  standby.delete(name);
  const there = ready && ready.child.exitCode === null && ready.child.signalCode === null;
  const started = there ? ready : startProcess(name, env);
  if (there) ready.begin(env);
  running.push(started);
  if (packagesOf)
    started.ready.then(
      () => stopping || standby.set(name, startProcess(name, env, { packages: packagesOf(name) })),
      () => {},
    );
  return started;
}

/** Keeps a process going: one that dies is started again, more slowly each time. */
async function keep(name, env) {
  const started = begin(name, env);
  const ready = await started.ready;
  watchOver(name, started);
  let pause = 500;
  const watch = (one) =>
    one.ended.then(async ({ code, signal }) => {
      running.splice(running.indexOf(one), 1);
      if (stopping) return;
      if (!one.anew) {
        note(name, `ended (${signal ?? code}) and is started again`);
        await new Promise((r) => setTimeout(r, pause));
        pause = Math.min(pause * 2, 15_000);
      }
      if (stopping) return;
      const next = begin(name, env);
      next.ready.then(
        () => {
          pause = 500;
          watchOver(name, next);
        },
        () => {},
      );
      watch(next);
    });
  watch(started);
  return ready;
}

/** Processes that were built anew are ended and begun again as what they are now. */
function beginAnew(names) {
  const theirs = running.filter((one) => names.includes(one.name));
  for (const one of theirs) {
    say(`[${one.name}] saved: begins anew`);
    one.anew = true;
    // At once, as in a crash: it is made for that.
    one.child.kill('SIGKILL');
  }
}

/** The pages as they are being written, made by Astro with every save. */
async function writePages(env, port) {
  const child = spawn(process.execPath, ['node_modules/astro/astro.js', 'dev', '--host', '127.0.0.1', '--port', port], {
    cwd: root,
    env: {
      ...process.env,
      ...env,
      ASTRO_TELEMETRY_DISABLED: '1',
      ASTRO_DISABLE_UPDATE_CHECK: 'true',
      NODE_ENV: 'development',
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  const ended = new Promise((resolve) => child.once('exit', resolve));
  const stop = () => {
    child.kill('SIGTERM');
    return ended;
  };
  running.push({ child, name: 'pages', ended, stop });
  await new Promise((resolve, reject) => {
    child.stdout.on('data', (chunk) => {
      if (/ready in|Local/.test(String(chunk))) resolve();
    });
    ended.then(() => reject(new Error('Astro ended before it was ready.')));
  });
  child.stdout.on('data', (chunk) => process.stdout.write(chunk));
}

async function once(name, env) {
  const one = startProcess(name, env);
  running.push(one);
  await one.ready;
  const { code } = await one.ended;
  running.splice(running.indexOf(one), 1);
  if (code !== 0) throw new Error(`${name} ended with ${code}`);
}

async function main() {
  ensureDebian(process.env.DATABASE_URL ? [] : ['postgresql'], say);
  ensurePackages(say);
  const { build, watch } = await import('./build.mjs');
  if (dev) packagesOf = await watch(beginAnew);
  else await build({ say });
  takeFolder();
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop(0));

  const notes = join(folder, 'start.json');
  if (demo && process.argv.includes('--fresh')) {
    if (existsSync(join(folder, 'postgres.json'))) (await startPostgres(folder)).stop('immediate');
    for (const name of ['postgres', 'postgres.json', 'practice.json', 'start.json', 'secret.key'])
      rmSync(join(folder, name), { recursive: true, force: true });
  }
  const known = existsSync(notes) ? JSON.parse(readFileSync(notes, 'utf8')) : {};
  const port = Number(process.env.PINEBELL_PORT) || (await choosePort(known.port, 4680));
  const practicePort = Number(process.env.PRACTICE_PORT) || (await choosePort(known.practicePort, 4690));
  const smtpPort = Number(process.env.PRACTICE_SMTP_PORT) || (await choosePort(known.smtpPort, 4691));
  const mailPort =
    process.env.PINEBELL_MAIL_PORT === undefined
      ? await choosePort(known.mailPort, 4625)
      : Number(process.env.PINEBELL_MAIL_PORT);
  const token = known.token ?? randomBytes(18).toString('base64url');
  const keepNotes = (practising) =>
    writeFileSync(notes, JSON.stringify({ port, practicePort, smtpPort, mailPort, token, practising }), {
      mode: 0o600,
    });
  keepNotes(known.practising ?? false);

  if (!process.env.DATABASE_URL) postgres = await startPostgres(folder);
  const practiceUrl = `http://127.0.0.1:${practicePort}`;
  const env = {
    DATABASE_URL: process.env.DATABASE_URL || postgres.url('pinebell'),
    PINEBELL_DATA: folder,
    PINEBELL_PORT: String(port),
    PINEBELL_MAIL_PORT: String(mailPort),
    PINEBELL_URL: process.env.PINEBELL_URL ?? `http://127.0.0.1:${port}`,
    ...(demo
      ? {
          PINEBELL_ALLOW_INSIDE: '1',
          PRACTICE_TRICKLE: process.env.PRACTICE_TRICKLE ?? '1',
          PINEBELL_MAIL_DOMAIN: process.env.PINEBELL_MAIL_DOMAIN ?? 'in.wrenfield.example',
        }
      : {}),
    PRACTICE_URL: practiceUrl,
    PRACTICE_SMTP_URL: `smtp://127.0.0.1:${smtpPort}`,
    PRACTICE_PORT: String(practicePort),
    PRACTICE_SMTP_PORT: String(smtpPort),
    PRACTICE_TOKEN: token,
    PRACTICE_FILE: join(folder, 'practice.json'),
  };
  await once('prepare', env);
  let practising = null;
  practise = () => {
    practising ??= keep('practice', env).catch((error) => {
      practising = null;
      throw error;
    });
    return practising.then(() => keepNotes(true));
  };
  practiseNoMore = () => keepNotes(false);
  if (demo || known.practising) {
    await practise();
    await once('demo', demo ? env : { ...env, DEMO_BUILD: '0' });
  }
  if (dev) {
    const pagesPort = await choosePort(undefined, 4321);
    env.PINEBELL_PAGES = `http://127.0.0.1:${pagesPort}`;
    await writePages(env, String(pagesPort));
  }
  const [{ setUpCode }] = await Promise.all([keep('web', env), keep('worker', env)]);
  if (postgres) void watchPostgres(env);
  say(
    demo
      ? `Pine Bell is at ${env.PINEBELL_URL}  sign in: oona@wrenfield.example / ring-the-bell`
      : setUpCode
        ? `Pine Bell is at ${env.PINEBELL_URL}  set it up there with the code ${setUpCode}`
        : `Pine Bell is at ${env.PINEBELL_URL}`,
  );
}

main().catch((error) => {
  console.error(error.message);
  void stop(1);
});
