import { defineConfig, MikroORM } from '@mikro-orm/postgresql';
import type pg from 'pg';
import { entities } from './entities/index.ts';
import { OURS } from './pool.ts';

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
    pool: {
      ...{ min: 0, max: 6 },
      afterCreate: (connection: unknown, made: unknown) =>
        (connection as pg.Client).query(OURS, made as (error: Error | null) => void),
    },
    schemaGenerator: { ignoreSchema: ['graphile_worker'], disableForeignKeys: false },
  });

export const openOrm = (clientUrl: string): Promise<MikroORM> => MikroORM.init(ormConfig(clientUrl));
