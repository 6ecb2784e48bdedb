// Builds everything into dist/ (pages) and build/ (processes, practice page). Skips what is up to date.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, watch as lookAt, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, extname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { gzipSync } from 'node:zlib';
import { bundlePackages, toBundledPackages } from './setup/bundled-packages.mjs';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** A fingerprint of all that the build is made from. */
function fingerprint() {
  const hash = createHash('sha256');
  const files = readdirSync(join(root, 'src'), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name));
  const all = [
    ...files,
    ...[
      'package-lock.json',
      'astro.config.mjs',
      'tsconfig.json',
      'scripts/build.mjs',
      'scripts/setup/bundled-packages.mjs',
    ].map((name) => join(root, name)),
  ];
  for (const file of all.sort()) hash.update(file.slice(root.length)).update('\0').update(readFileSync(file));
  return hash.digest('hex');
}

/** The processes, each one file; what is in node_modules stays there, or is beside them in packages/. */
const PROCESSES = {
  absWorkingDir: root,
  entryPoints: {
    web: 'src/server/main.ts',
    worker: 'src/worker/main.ts',
    practice: 'src/practice/main.ts',
    'read-table': 'src/tables/thread.ts',
    'read-strangers': 'src/reading/thread.ts',
    'write-table': 'src/tables/write-thread.ts',
    prepare: 'src/db/prepare-main.ts',
    demo: 'src/demo/main.ts',
  },
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  packages: 'external',
  sourcemap: true,
  outdir: 'build',
  outExtension: { '.js': '.mjs' },
  logLevel: 'warning',
  plugins: [toBundledPackages],
};

function run(args) {
  const out = spawnSync(process.execPath, args, {
    cwd: root,
    encoding: 'utf8',
    env: { ...process.env, ASTRO_TELEMETRY_DISABLED: '1', NODE_ENV: 'production' },
  });
  if (out.status !== 0) throw new Error(`build failed: ${args.join(' ')}\n${out.stdout}\n${out.stderr}`);
}

const PACKABLE = new Set(['.js', '.css', '.svg', '.json', '.txt', '.html']);

/** Packs each file of a folder beside it, once, for browsers that take it packed. */
function pack(folder) {
  for (const entry of readdirSync(join(root, folder), { recursive: true, withFileTypes: true })) {
    const path = join(entry.parentPath, entry.name);
    if (entry.isFile() && PACKABLE.has(extname(path)))
      writeFileSync(`${path}.gz`, gzipSync(readFileSync(path), { level: 9 }));
  }
}

/** Some editors save in several strokes: built once there has been none for as many milliseconds. */
const SETTLED_AFTER = 40;

/** Builds the processes with every save; `changed` is told the names of those that are others than before. Pages are made by Astro meanwhile. */
export async function watch(changed) {
  // What stands in build/ from now on is made of more than the pages in dist/.
  rmSync(join(root, 'build/stamp'), { force: true });
  if (!existsSync(join(root, 'build/practice-page')))
    run(['node_modules/vite/bin/vite.js', 'build', '--config', 'vite.practice.mjs']);
  await bundlePackages();
  const esbuild = await import('esbuild');
  const before = new Map();
  const tell = {
    name: 'tell',
    setup: (building) =>
      building.onEnd(({ metafile }) => {
        const others = [];
        for (const name of Object.keys(PROCESSES.entryPoints)) {
          const path = join(root, `build/${name}.mjs`);
          if (!metafile || !existsSync(path)) continue;
          const now = createHash('sha256').update(readFileSync(path)).digest('hex');
          if (before.has(name) && before.get(name) !== now) others.push(name);
          before.set(name, now);
        }
        if (others.length > 0) changed(others);
      }),
  };
  const context = await esbuild.context({ ...PROCESSES, metafile: true, plugins: [toBundledPackages, tell] });
  await context.rebuild();
  // esbuild's own watch looks at a few files at a time and sees a save up to two seconds late.
  let saved;
  let building = Promise.resolve();
  lookAt(join(root, 'src'), { recursive: true }, () => {
    clearTimeout(saved);
    saved = setTimeout(() => {
      // What is wrong with it esbuild has said; the next save tries again.
      building = building.then(() => context.rebuild()).catch(() => {});
    }, SETTLED_AFTER);
  });
}

export async function build({ force = false, say = console.log } = {}) {
  const stamp = join(root, 'build/stamp');
  const now = fingerprint();
  if (
    !force &&
    existsSync(stamp) &&
    existsSync(join(root, 'dist/server/entry.mjs')) &&
    readFileSync(stamp, 'utf8') === now
  )
    return false;
  say('Building …');
  rmSync(stamp, { force: true });
  mkdirSync(join(root, 'build'), { recursive: true });
  const esbuild = await import('esbuild');
  await bundlePackages();
  await esbuild.build(PROCESSES);
  run(['node_modules/vite/bin/vite.js', 'build', '--config', 'vite.practice.mjs']);
  run(['node_modules/astro/astro.js', 'build']);
  for (const folder of ['build/practice-page', 'dist/client']) pack(folder);
  writeFileSync(stamp, now);
  return true;
}

if (import.meta.url === pathToFileURL(process.argv[1]).href)
  console.log((await build({ force: process.argv.includes('--force') })) ? 'Built.' : 'Up to date.');
