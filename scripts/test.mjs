// npm test [-- [--watch] FILE …]: sets up what is missing, builds, then lint, borders, types and every test. The last line alone: N passed, N failed.
import { spawn } from 'node:child_process';
import { watch } from 'node:fs/promises';
import { setPriority } from 'node:os';
import { fileURLToPath } from 'node:url';
import { ensureDebian } from './setup/debian.mjs';
import { ensurePackages } from './setup/packages.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
process.chdir(root);
process.env.ASTRO_TELEMETRY_DISABLED = '1';
const watching = process.argv.includes('--watch');
const wanted = process.argv.slice(2).filter((one) => one !== '--watch');
let passed = 0;
let failed = 0;
/** Processes the tests run in side by side. */
const LANES = 2;
/** Files whose tests wait most of their time. */
const PATIENT = ['crash', 'start'].map((name) => `tests/integration/${name}.test.ts`);

ensureDebian([
  'postgresql',
  'chromium-headless-shell',
  'dovecot-imapd',
  'postfix',
  'apache2-bin',
  'libnet-smpp-perl',
  'radicale',
  'openssh-server',
]);
ensurePackages();
const { build } = await import('./build.mjs');
const { runTests, testFiles } = await import('./setup/test-lanes.mjs');

/** A check that is one command: its output is only shown when it fails. */
async function check(name, args) {
  const began = Date.now();
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'pipe'] });
  // The tests go first: some of them look at the clock.
  setPriority(child.pid, 10);
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => (said += chunk));
  const status = await new Promise((resolve) => child.on('close', resolve));
  const good = status === 0;
  if (good) passed += 1;
  else failed += 1;
  console.log(`${good ? 'ok  ' : 'FAIL'} ${name} (${((Date.now() - began) / 1000).toFixed(1)} s)`);
  if (!good) {
    console.log(said);
    failures.push(`${name}\n${said}`);
  }
}

async function checks() {
  await check('format and lint', ['node_modules/@biomejs/biome/bin/biome', 'check', '--error-on-warnings', '.']);
  await check('layer borders', [
    'node_modules/dependency-cruiser/bin/dependency-cruise.mjs',
    '--config',
    '.dependency-cruiser.cjs',
    'src',
  ]);
  await check('no unused code', ['node_modules/knip/bin/knip.js', '--no-config-hints']);
  await check('types', ['node_modules/typescript7/bin/tsc', '--noEmit']);
  // The same of .astro files, which only Astro's own check can read: of all the rest it takes four times as long.
  await check('types of pages', [
    'node_modules/astro/astro.js',
    'check',
    '--minimumSeverity',
    'error',
    '--tsconfig',
    'tsconfig.astro.json',
  ]);
  await check('no promise left alone, no dear pattern', [
    'node_modules/oxlint/bin/oxlint',
    '--report-unused-disable-directives',
    'src',
    'tests',
  ]);
}

/** What failed and why: told again at the end, where a long record is read first. */
const failures = [];
const slow = [];
const slowFiles = [];
async function tests(files, lanes, before) {
  const told = await runTests(files, lanes, before);
  slowFiles.push(...told.files);
  passed += told.passes;
  failed += told.failures;
  slow.push(...told.slow);
  failures.push(...told.failed);
  if (told.passes + told.failures === 0) failed += 1;
}

/** Runs them again with every save. What needs no application is not held up by building one. */
async function again() {
  const needsApplication = wanted.some((path) => /integration|browser/.test(path));
  for (;;) {
    if (needsApplication) await build().catch((error) => console.log(error.message));
    const { passes, failures } = await runTests(testFiles(wanted), 1);
    console.log(`${passes} passed, ${failures} failed; waiting for a save`);
    const stop = new AbortController();
    await Promise.race(
      ['src', 'tests'].map(async (folder) => {
        for await (const _ of watch(folder, { recursive: true, signal: stop.signal })) return;
      }),
    ).catch(() => {});
    stop.abort();
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}

const began = Date.now();
if (watching) await again();
if (wanted.length > 0) {
  await build();
  await tests(testFiles(wanted), Math.min(LANES, wanted.length));
} else {
  // What needs no application is tried while it is built, and what reads the code once that is done.
  const ready = build();
  const early = testFiles(['tests/unit', 'tests/reference']);
  const built = ready.then(checks, (error) => {
    failed += 1;
    failures.push(`build\n${error.message}`);
    console.log(error.message);
  });
  await Promise.all([
    tests(testFiles(['tests/integration', 'tests/browser']), LANES, { early, ready, patient: PATIENT }),
    built,
  ]);
}
slow.sort((a, b) => b[0] - a[0]);
slowFiles.sort((a, b) => b[0] - a[0]);
console.log('\nThe slowest files:');
for (const [ms, file] of slowFiles.slice(0, 10)) console.log(`${(ms / 1000).toFixed(1).padStart(7)} s  ${file}`);
console.log('\nThe slowest:');
for (const [ms, title] of slow.slice(0, 10)) console.log(`${(ms / 1000).toFixed(1).padStart(7)} s  ${title}`);
for (const one of failures) console.log(`\nFailed: ${one.slice(0, 4000)}`);
console.log(`In all ${((Date.now() - began) / 1000).toFixed(0)} s.`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
