// Starts a built process and waits for its `ready {…}` line.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('../..', import.meta.url));

/** An entry of a process's log as a person reads it; LOG_FORMAT=json leaves it as it is. What is no entry is left as it is too. */
function readable(line) {
  if (process.env.LOG_FORMAT === 'json' || !line.startsWith('{"level":')) return line;
  try {
    const { level, time, scope, msg, err, ...about } = JSON.parse(line);
    const ids = Object.entries(about).map(([what, id]) => `${what} ${id}`);
    const words = [`${time.slice(11, 19)} ${level} ${scope}: ${msg}`, ids.join(', '), err?.message].filter(Boolean);
    const cause = err?.cause ? `\n    because: ${err.cause.stack}` : '';
    return `${words.join('; ')}${level === 'error' && err?.stack ? `\n    ${err.stack}` : ''}${cause}`;
  } catch {
    return line;
  }
}

/** With `packages`, it loads those and waits for `begin(env)` before it is what it is to be. */
export function startProcess(name, env, { log = (line) => console.error(line), packages = null } = {}) {
  const run = packages
    ? [join(root, 'scripts/setup/standby.mjs'), `${name}.mjs`, ...packages]
    : [join(root, `build/${name}.mjs`)];
  const child = spawn(process.execPath, ['--enable-source-maps', ...run], {
    env: { ...process.env, NODE_ENV: 'production', PINEBELL_STOP_WITH_PARENT: '1', ...env },
    // Its standard input stays open as long as we are there: that is how it knows.
    // The fourth is how it is asked whether it is still there.
    stdio: ['pipe', 'pipe', 'pipe', 'ipc'],
  });
  const ended = new Promise((resolve) => child.once('exit', (code, signal) => resolve({ code, signal })));
  const lines = (stream, each) => {
    let rest = '';
    stream.setEncoding('utf8').on('data', (chunk) => {
      const parts = (rest + chunk).split('\n');
      rest = parts.pop();
      parts.forEach(each);
    });
  };
  lines(child.stderr, (line) => log(`[${name}] ${readable(line)}`));
  const ready = new Promise((resolve, reject) => {
    lines(child.stdout, (line) => {
      if (line.startsWith('ready ')) resolve(JSON.parse(line.slice(6)));
      else log(`[${name}] ${line}`);
    });
    ended.then(({ code, signal }) => reject(new Error(`${name} ended before it was ready (${signal ?? code})`)));
  });
  ready.catch(() => {});
  const stop = async (graceMs = 12_000) => {
    if (child.exitCode !== null || child.signalCode !== null) return;
    child.kill('SIGTERM');
    const timer = setTimeout(() => child.kill('SIGKILL'), graceMs);
    await ended;
    clearTimeout(timer);
  };
  return { name, child, ready, ended, stop, begin: (newest) => child.send({ env: newest }) };
}
