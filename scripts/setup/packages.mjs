// npm packages exactly as the lock file has them, installed only when it has changed.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');

export function ensurePackages(say = console.log) {
  const stamp = join(root, 'node_modules/.pine-bell');
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  say('Installing packages (npm ci) …');
  const out = spawnSync('npm', ['ci', '--no-audit', '--no-fund'], {
    cwd: root,
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  if (out.status !== 0) throw new Error(`npm ci did not work:\n${out.stdout}${out.stderr}`);
  writeFileSync(stamp, lock);
}
