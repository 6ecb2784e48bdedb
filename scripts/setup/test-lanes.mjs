// Runs test files in some processes side by side: each takes the next file when it is done with one.
import { fork } from 'node:child_process';
import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const shard = fileURLToPath(new URL('./test-shard.mjs', import.meta.url));

/** The files that are meant, of folders all in them; those that take longest first: what drives a browser or the whole application, then the larger ones. */
export function testFiles(wanted) {
  const weight = (file) =>
    statSync(file).size + (file.includes('browser') ? 1e6 : file.includes('integration') ? 5e5 : 0);
  const under = (path) =>
    statSync(path).isDirectory()
      ? readdirSync(path, { recursive: true, encoding: 'utf8' })
          .filter((file) => file.endsWith('.test.ts'))
          .map((file) => join(path, file))
      : [path];
  return wanted.flatMap(under).sort((a, b) => weight(b) - weight(a));
}

/**
 * Gives how many passed and failed, what failed and why, and each test's and file's time. What a file prints stands together, however many run at once. A process that ends
 * before its file is done has failed with it, and the others go on. `early` are files that need not wait for `ready`; `patient` are those among all that
 * wait most of their time, for a lease to run out or a process to come back: they have a lane of their own beside the others.
 */
export async function runTests(files, lanes, { early = [], ready = Promise.resolve(), patient = [] } = {}) {
  const waiting = files.filter((file) => patient.includes(file));
  const left = files.filter((file) => !patient.includes(file));
  const soon = [...early];
  /** The first lane begins with what needs no waiting; the others help with it once nothing else is left. */
  const take = async (first, calm) => {
    if (first && soon.length > 0) return soon.shift();
    if (calm) return (await ready.then(() => waiting.shift()).catch(() => undefined)) ?? null;
    const there = await ready.then(
      () => true,
      () => false,
    );
    return (there ? (left.shift() ?? waiting.shift()) : undefined) ?? soon.shift() ?? null;
  };
  const sum = { passes: 0, failures: 0, slow: [], failed: [], files: [] };
  const lane = (first, calm = false) =>
    new Promise((resolve) => {
      if (left.length + soon.length + waiting.length === 0) return resolve();
      const child = fork(shard, { execArgv: ['--import', 'tsx'], silent: true });
      let said = '';
      let at = null;
      const next = async () => {
        at = await take(first, calm);
        child.send({ file: at });
      };
      for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (said += chunk));
      child.on('message', (told) => {
        if (told.file) {
          sum.passes += told.passes;
          sum.failures += told.failures;
          sum.slow.push(...told.slow);
          sum.failed.push(...told.failed.map((one) => `${told.file}: ${one}`));
          sum.files.push([told.ms, told.file]);
          // What is still in the pipe belongs to this file.
          setImmediate(() => {
            process.stdout.write(said);
            said = '';
            void next();
          });
        } else void next();
      });
      child.on('exit', (code) => {
        process.stdout.write(said);
        if (at !== null) {
          sum.failures += 1;
          const why = `The process ended with ${code} while it ran ${at}.`;
          console.log(why);
          sum.failed.push(why);
          return resolve(lane(first, calm));
        }
        resolve();
      });
    });
  await Promise.all([
    ...Array.from({ length: lanes }, (_, i) => lane(i === 0)),
    ...(waiting.length > 0 ? [lane(false, true)] : []),
  ]);
  sum.slow.sort((a, b) => b[0] - a[0]);
  sum.files.sort((a, b) => b[0] - a[0]);
  return sum;
}
