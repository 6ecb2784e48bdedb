import type { MikroORM } from '@mikro-orm/postgresql';
import type pg from 'pg';
import { openOrm } from './db/orm.ts';
import { openPool } from './db/pool.ts';
import { type Machinery, openMachinery } from './machinery.ts';

/** What the screens and their use cases work with: the machinery, and the object mapper. */
export interface Runtime extends Machinery {
  orm: MikroORM;
  /** The screens' own connections, so that a crowd of colleagues takes none from what comes in and goes out. */
  screens: pg.Pool;
}

async function openRuntime(): Promise<Runtime> {
  const machinery = openMachinery();
  const orm = await openOrm(machinery.settings.databaseUrl);
  const screens = openPool(machinery.settings.databaseUrl, 6);
  return {
    ...machinery,
    orm,
    screens,
    async close() {
      await machinery.close();
      await screens.end();
      await orm.close();
    },
  };
}

// On globalThis: the built pages and the server file are two bundles in one process and must share one runtime.
const KEY = Symbol.for('pine-bell.runtime');
type Holder = { [KEY]?: Promise<Runtime> };

export function getRuntime(): Promise<Runtime> {
  const holder = globalThis as Holder;
  holder[KEY] ??= openRuntime();
  return holder[KEY];
}
