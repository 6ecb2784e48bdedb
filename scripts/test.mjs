// npm test: sets up what is missing, builds, then lint, borders, types and every test. The last line alone: N passed, N failed.
import { spawn } from 'node:child_process';
import { readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { ensureDebian } from './setup/debian.mjs';
import { ensurePackages } from './setup/packages.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
process.chdir(root);
process.env.ASTRO_TELEMETRY_DISABLED = '1';
const wanted = process.argv.slice(2);
let passed = 0;
let failed = 0;

ensureDebian(['postgresql', 'chromium']);
ensurePackages();
const { build } = await import('./build.mjs');
await build();

/** A check that is one command: its output is only shown when it fails. */
async function check(name, args) {
  const began = Date.now();
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'pipe'] });
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (said += chunk));
  const status = await new Promise((resolve) => child.on('close', resolve));
  const good = status === 0;
  if (good) passed += 1;
  else failed += 1;
  console.log(`${good ? 'ok  ' : 'FAIL'} ${name} (${((Date.now() - began) / 1000).toFixed(1)} s)`);
  if (!good) console.log(said);
}

if (wanted.length === 0) {
  // The two long ones beside one another: each is busy on one core.
  const long = [
    check('types', ['node_modules/astro/astro.js', 'check', '--minimumSeverity', 'error']),
    check('no promise left alone', ['node_modules/eslint/bin/eslint.js', '.']),
  ];
  await Promise.all(long);
  await check('format and lint', ['node_modules/@biomejs/biome/bin/biome', 'check', '--error-on-warnings', '.']);
  await check('layer borders', [
    'node_modules/dependency-cruiser/bin/dependency-cruise.mjs',
    '--config',
    '.dependency-cruiser.cjs',
    'src',
  ]);
  await check('no unused code', ['node_modules/knip/bin/knip.js', '--no-config-hints']);
}

/** The tests in these files. */
async function tests(files) {
  const report = join(tmpdir(), `pine-bell-tests-${process.pid}.json`);
  const mocha = spawn(
    process.execPath,
    [
      'node_modules/mocha/bin/mocha.js',
      '--require',
      'tests/stage/postgres.ts',
      '--reporter',
      'scripts/setup/counting-reporter.cjs',
      '--exit',
      ...files,
    ],
    { stdio: ['ignore', 'inherit', 'inherit'], env: { ...process.env, TEST_REPORT: report } },
  );
  const status = await new Promise((resolve) => mocha.on('close', resolve));
  let counted = { passes: 0, failures: 0 };
  try {
    counted = JSON.parse(readFileSync(report, 'utf8'));
    rmSync(report);
  } catch {
    console.log('The tests ended before they could be counted.');
  }
  passed += counted.passes;
  failed += counted.failures;
  if (counted.failures === 0 && (status !== 0 || counted.passes === 0)) failed += 1;
}

const folders = ['tests/unit', 'tests/reference', 'tests/integration', 'tests/browser'];
await tests(wanted.length > 0 ? wanted : folders.map((folder) => `${folder}/**/*.test.ts`));
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
