import { Migrator } from '@mikro-orm/migrations';
import { MikroORM } from '@mikro-orm/postgresql';
import { migrationsList } from './migrations/index.ts';
import { ormConfig } from './orm.ts';

/** The object mapper with its migrations. Apart from the other: what migrating needs takes a second to load, and processes start often. */
export const openMigratingOrm = (clientUrl: string): Promise<MikroORM> =>
  MikroORM.init({
    ...ormConfig(clientUrl),
    extensions: [Migrator],
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
