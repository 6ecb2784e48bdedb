import { defineConfig, MikroORM } from '@mikro-orm/postgresql';
import { entities } from './entities/index.ts';

/** The object mapper for screens and use cases. The hot path has its own statements, in db/hot. */
export const ormConfig = (clientUrl: string) =>
  defineConfig({
    clientUrl,
    entities,
    forceUtcTimezone: true,
    logger: () => {},
    // What is removed is not found itself; what refers to it is: its history stays.
    autoJoinRefsForFilters: false,
    discovery: { disableDynamicFileAccess: true },
    pool: { min: 0, max: 6 },
    schemaGenerator: { ignoreSchema: ['graphile_worker'], disableForeignKeys: false },
  });

export const openOrm = (clientUrl: string): Promise<MikroORM> => MikroORM.init(ormConfig(clientUrl));
