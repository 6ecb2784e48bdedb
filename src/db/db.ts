import type pg from 'pg';

/** Whatever takes a statement: a pool, or the one connection a transaction has. */
export interface Db {
  query<R extends pg.QueryResultRow = pg.QueryResultRow>(
    statement: string,
    values?: unknown[],
  ): Promise<pg.QueryResult<R>>;
}
