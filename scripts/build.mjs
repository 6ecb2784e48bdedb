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
  const files = ['src', 'public', 'docs/help', 'docs/screenshots'].flatMap((folder) =>
    readdirSync(join(root, folder), { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name)),
  );
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

/**
 * Builds the processes with every save, those that are made of what was saved; `changed` is told the names of those that are others than before. Pages are made
 * by Astro meanwhile. Gives the packages a process loads as it begins.
 */
export async function watch(changed) {
  // What stands in build/ from now on is made of more than the pages in dist/.
  rmSync(join(root, 'build/stamp'), { force: true });
  if (!existsSync(join(root, 'build/practice-page')))
    run(['node_modules/vite/bin/vite.js', 'build', '--config', 'vite.practice.mjs']);
  await bundlePackages();
  const esbuild = await import('esbuild');
  const made = await Promise.all(
    Object.entries(PROCESSES.entryPoints).map(async ([name, path]) => ({
      name,
      context: await esbuild.context({ ...PROCESSES, entryPoints: { [name]: path }, metafile: true }),
      hash: null,
      inputs: null,
      packages: [],
    })),
  );
  const makeAgain = async (one) => {
    // What is wrong with it esbuild has said; it is tried again with the next save of anything.
    const built = await one.context.rebuild().catch(() => null);
    one.inputs = built && new Set(Object.keys(built.metafile.inputs));
    if (!built) return false;
    const out = `build/${one.name}.mjs`;
    one.packages = built.metafile.outputs[out].imports
      .filter(({ external, kind }) => external && kind === 'import-statement')
      .map((imported) => imported.path);
    const [before, now] = [
      one.hash,
      createHash('sha256')
        .update(readFileSync(join(root, out)))
        .digest('hex'),
    ];
    one.hash = now;
    return before !== null && before !== now;
  };
  await Promise.all(made.map(makeAgain));
  const saved = new Set();
  let soon;
  let building = Promise.resolve();
  const makeSaved = async () => {
    const theirs = made.filter(({ inputs }) => !inputs || [...saved].some((file) => inputs.has(file)));
    saved.clear();
    const others = await Promise.all(theirs.map(makeAgain));
    const names = theirs.filter((_, i) => others[i]).map(({ name }) => name);
    if (names.length > 0) changed(names);
  };
  // esbuild's own watch looks at a few files at a time and sees a save up to two seconds late.
  lookAt(join(root, 'src'), { recursive: true }, (_, file) => {
    saved.add(join('src', file));
    clearTimeout(soon);
    soon = setTimeout(() => {
      building = building.then(makeSaved);
    }, SETTLED_AFTER);
  });
  return (name) => made.find((one) => one.name === name).packages;
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
