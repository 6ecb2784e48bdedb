import type pg from 'pg';
import type { Turns } from '../../gateways/described/pace.ts';
import { OwnTurns } from '../../gateways/described/pace.ts';
import { log } from '../../log.ts';

/** Turns that all processes share, one row for each connection: a limit is the service's, however many of us there are. */
export class ServiceTurns implements Turns {
  /** For what is no connection yet, and while the database does not answer. */
  private readonly own: OwnTurns;

  constructor(private readonly parts: { pool: pg.Pool; now: () => number }) {
    this.own = new OwnTurns(parts.now);
  }

  async take(key: string, perSecond: number, longestMs: number): Promise<{ wait: number; taken: boolean }> {
    const step = 1_000_000 / perSecond;
    try {
      const { rows } = await this.parts.pool.query<{ wait: number; taken: boolean }>(TAKE, [key, step, longestMs]);
      const row = rows[0];
      if (row) return { wait: Math.max(0, row.wait), taken: row.taken };
    } catch (error) {
      log.warn({ scope: 'connections', err: error }, 'turns are given out by this process alone');
    }
    return this.own.take(key, perSecond, longestMs);
  }
}

/** $2 in microseconds, $3 in milliseconds. By the database's clock: processes may be on several machines. */
const TAKE = `
with taken as (insert into service_turn as t (connection_id, business_id, next_at)
    select id, business_id, clock_timestamp() + $2::float8 * interval '1 microsecond' from connection where id = $1::uuid
    on conflict (connection_id) do update set next_at = greatest(t.next_at, clock_timestamp()) + $2::float8 * interval '1 microsecond'
      where t.next_at <= clock_timestamp() + $3::float8 * interval '1 millisecond'
    returning next_at - $2::float8 * interval '1 microsecond' as at)
select 1000 * extract(epoch from at - clock_timestamp())::float8 as wait, true as taken from taken
union all select 1000 * extract(epoch from next_at - clock_timestamp())::float8, false from service_turn where connection_id = $1::uuid and not exists (select from taken)`;
