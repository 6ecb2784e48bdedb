// npm run mutate [-- -m src/core/time/read-date.ts]: which small changes of the core no unit or reference test notices. Half an hour for all of it; what is
// unchanged since the last time is not tried again (build/mutation/).
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { ensurePackages } from './setup/packages.mjs';

process.chdir(fileURLToPath(new URL('..', import.meta.url)));
ensurePackages();
const run = (command, args) => {
  const { status } = spawnSync(command, args, { stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
};
// Apart from the other packages: its runner wants an older Mocha, and nobody else needs it.
if (!existsSync('tests/mutation/node_modules'))
  run('npm', ['ci', '--prefix', 'tests/mutation', '--no-audit', '--no-fund']);
const stryker = 'tests/mutation/node_modules/@stryker-mutator/core/bin/stryker.js';
run(process.execPath, [stryker, 'run', 'tests/mutation/stryker.config.mjs', ...process.argv.slice(2)]);
