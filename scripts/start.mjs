// npm start: Pine Bell for real use. npm run demo: with practice desk and demo business (-- --fresh begins anew).
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
const demo = process.argv.includes('--demo');
const folder = resolve(process.env.PINEBELL_DATA ?? join(root, 'data', demo ? 'demo' : 'live'));
const say = (line) => console.log(line);
const running = [];
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
    await Promise.all([...running].reverse().map((one) => one.stop()));
    postgres?.stop();
    rmSync(join(folder, 'start.pid'), { force: true });
    process.exit(code);
  })();
  return stopping;
}

/** Keeps a process going: one that dies is started again, more slowly each time. */
async function keep(name, env) {
  const started = startProcess(name, env);
  running.push(started);
  const ready = await started.ready;
  let pause = 500;
  const watch = (one) =>
    one.ended.then(async ({ code, signal }) => {
      running.splice(running.indexOf(one), 1);
      if (stopping) return;
      console.error(`[${name}] ended (${signal ?? code}) and is started again`);
      await new Promise((r) => setTimeout(r, pause));
      pause = Math.min(pause * 2, 15_000);
      if (stopping) return;
      const next = startProcess(name, env);
      running.push(next);
      next.ready.then(
        () => {
          pause = 500;
        },
        () => {},
      );
      watch(next);
    });
  watch(started);
  return ready;
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
  const { build } = await import('./build.mjs');
  await build({ say });
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
  const practicePort = Number(process.env.PRACTICE_PORT) || (demo ? await choosePort(known.practicePort, 4690) : 0);
  const smtpPort = Number(process.env.PRACTICE_SMTP_PORT) || (demo ? await choosePort(known.smtpPort, 4691) : 0);
  const mailPort =
    process.env.PINEBELL_MAIL_PORT === undefined
      ? await choosePort(known.mailPort, 4625)
      : Number(process.env.PINEBELL_MAIL_PORT);
  const token = known.token ?? randomBytes(18).toString('base64url');
  writeFileSync(notes, JSON.stringify({ port, practicePort, smtpPort, mailPort, token }), { mode: 0o600 });

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
          PINEBELL_MAIL_DOMAIN: process.env.PINEBELL_MAIL_DOMAIN ?? 'in.wrenfield.example',
          PINEBELL_PRACTICE_URL: practiceUrl,
          PRACTICE_URL: practiceUrl,
          PRACTICE_SMTP_URL: `smtp://127.0.0.1:${smtpPort}`,
          PRACTICE_PORT: String(practicePort),
          PRACTICE_SMTP_PORT: String(smtpPort),
          PRACTICE_TOKEN: token,
          PRACTICE_FILE: join(folder, 'practice.json'),
        }
      : {}),
  };
  await once('prepare', env);
  if (demo) {
    await keep('practice', env);
    await once('demo', env);
  }
  const [{ setUpCode }] = await Promise.all([keep('web', env), keep('worker', env)]);
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
