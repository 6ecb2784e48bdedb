import { spawn } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const bench = dirname(dirname(fileURLToPath(import.meta.url)));

/** Runs bench/seed.ts and gives what it prints: the source's address, the carrier's report key and secret. */
export const seeded = (env) => printed('seed.ts', env);

/** Runs a file of bench/ in a process of its own and gives what it prints. */
export function printed(file, env) {
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, ['--import', 'tsx', join(bench, file)], {
      env: { ...process.env, ...env },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let text = '';
    child.stdout.on('data', (chunk) => {
      text += chunk;
    });
    child.on('exit', () => {
      const line = /^ready (.*)$/m.exec(text);
      if (line) resolve(JSON.parse(line[1]));
      else reject(new Error(`${file} did not come to its end`));
    });
  });
}

/** The built processes, ready. */
export async function started(startProcess, names, env) {
  const processes = [];
  for (const name of names) {
    const one = startProcess(name, env);
    await one.ready;
    processes.push(one);
  }
  return processes;
}
