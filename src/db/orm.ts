import { Migrator } from '@mikro-orm/migrations';
import { defineConfig, MikroORM } from '@mikro-orm/postgresql';
import { entities } from './entities/index.ts';
import { migrationsList } from './migrations/index.ts';

/** The object mapper for screens and use cases. The hot path has its own statements, in db/hot. */
export const ormConfig = (clientUrl: string) =>
  defineConfig({
    clientUrl,
    entities,
    extensions: [Migrator],
    forceUtcTimezone: true,
    logger: () => {},
    discovery: { disableDynamicFileAccess: true },
    pool: { min: 0, max: 6 },
    schemaGenerator: { ignoreSchema: ['graphile_worker'], disableForeignKeys: false },
    migrations: {
      path: 'src/db/migrations',
      emit: 'ts',
      snapshotName: '.snapshot',
      disableForeignKeys: false,
      migrationsList,
      // The snapshot is only there to write new migrations (src/db/migration-new.ts).
      snapshot: false,
    },
  });

export const openOrm = (clientUrl: string): Promise<MikroORM> => MikroORM.init(ormConfig(clientUrl));
