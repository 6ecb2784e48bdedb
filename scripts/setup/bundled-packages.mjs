// The packages that take long to load from their hundreds of files, each made into one file in build/packages/: processes start twice as fast.
// The processes and the pages share them, so that what is one object in a package stays one. Sources and tests import the packages themselves.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join, relative, sep } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('../..', import.meta.url));
const HERE = join(root, 'build/packages/');

/** By the name they are imported by. Not those that load code of their own by name (pg, piscina, argon2), nor what browsers load too. */
const FILES = {
  '@mikro-orm/core': 'mikro-orm',
  '@mikro-orm/postgresql': 'mikro-orm',
  '@mikro-orm/migrations': 'mikro-orm-migrations',
  'graphile-worker': 'graphile-worker',
  'html-to-text': 'html-to-text',
  jstat: 'jstat',
  'libphonenumber-js/max': 'libphonenumber-max',
  liquidjs: 'liquidjs',
  mailparser: 'mailparser',
  'mjml-core': 'mjml-core',
  'mjml-preset-core': 'mjml-preset-core',
  nodemailer: 'nodemailer',
  numfmt: 'numfmt',
  'smtp-server': 'smtp-server',
  undici: 'undici',
  uuid: 'uuid',
  'write-excel-file/node': 'write-excel-file',
  zod: 'zod',
};
/** What is done beside. MikroORM would look for its number in a package.json beside it; that its parts are of one is the lock file's matter. */
const BESIDE = { '@mikro-orm/postgresql': "process.env.MIKRO_ORM_ALLOW_VERSION_MISMATCH ??= '1';" };
/** "@mikro-orm/postgresql" gives all of "@mikro-orm/core" too. */
const WHOLE = Object.fromEntries(Object.entries(FILES).map(([name, file]) => [file, name]));

/** What a bundled package may ask for and does not need here, or must find where it lies. */
const OUTSIDE = [
  ...['pg', 'pg-native', 'pg-query-stream', 'mysql', 'mysql2', 'mariadb', 'sqlite3', 'better-sqlite3', 'libsql'],
  ...['tedious', 'oracledb', '@mikro-orm/entity-generator', 'ts-node', '@swc/*'],
];
/** What stands in a package that is no module may ask for these. */
const REQUIRES = `import { createRequire as makeRequire } from 'node:module';
import { dirname as folderOf } from 'node:path';
import { fileURLToPath as pathOf } from 'node:url';
const require = makeRequire(import.meta.url);
const __filename = pathOf(import.meta.url);
const __dirname = folderOf(__filename);`;

/** Leads an import of one of them to its file: for esbuild, beside what is being built. */
export const toBundledPackages = {
  name: 'bundled-packages',
  setup: (building) =>
    building.onResolve({ filter: /^[@a-z]/ }, ({ path }) =>
      FILES[path] ? { path: `./packages/${FILES[path]}.mjs`, external: true } : null,
    ),
};

/** The same for the pages, each by the way from where it will lie. */
export const pagesToBundledPackages = {
  name: 'bundled-packages',
  enforce: 'pre',
  apply: 'build',
  resolveId: (id, _from, { ssr }) => (ssr && FILES[id] ? { id: `${HERE}${FILES[id]}.mjs`, external: true } : null),
  renderChunk: (code, { fileName }) => {
    const way = relative(dirname(join(root, 'dist/server', fileName)), HERE).replaceAll(sep, '/');
    return code.includes(HERE) ? { code: code.replaceAll(HERE, `${way}/`), map: null } : null;
  },
};

/** Made again only when the packages are others, or are made otherwise. */
export async function bundlePackages() {
  const hash = createHash('sha256');
  for (const path of ['package-lock.json', 'scripts/setup/bundled-packages.mjs'])
    hash.update(readFileSync(join(root, path)));
  const [stamp, now] = [join(HERE, 'stamp'), hash.digest('hex')];
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now) return;
  rmSync(HERE, { recursive: true, force: true });
  mkdirSync(HERE, { recursive: true });
  const names = {};
  for (const name of Object.values(WHOLE)) names[name] = Object.keys(await import(name));
  const { build } = await import('esbuild');
  await build({
    absWorkingDir: root,
    entryPoints: Object.fromEntries(Object.entries(WHOLE).map(([file, name]) => [file, `whole:${name}`])),
    bundle: true,
    splitting: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    external: OUTSIDE,
    outdir: HERE,
    outExtension: { '.js': '.mjs' },
    banner: { js: REQUIRES },
    logLevel: 'error',
    plugins: [
      {
        name: 'whole',
        setup: (building) => {
          building.onResolve({ filter: /^whole:/ }, ({ path }) => ({ path: path.slice(6), namespace: 'whole' }));
          // By name: of what is no module, "all there is" would be nothing.
          building.onLoad({ filter: /./, namespace: 'whole' }, ({ path }) => ({
            contents: `export { ${names[path].filter((name) => name !== 'module.exports').join(', ')} } from '${path}';\n${BESIDE[path] ?? ''}`,
            resolveDir: root,
          }));
        },
      },
    ],
  });
  writeFileSync(stamp, now);
}
