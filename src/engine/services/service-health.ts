import type pg from 'pg';
import type { CallSeen } from '../../gateways/described/described-caller.ts';
import { log } from '../../log.ts';

/** How often what was seen is written down, milliseconds: calls themselves never wait for it. */
const WRITE_EVERY_MS = 2000;

interface Hour {
  connectionId: string;
  /** ISO 8601. */
  hour: string;
  calls: number;
  failed: number;
  ms: number;
  most: number;
  okAt: string | null;
  badAt: string | null;
  problem: string;
}

/** Remembers how each service does: so many calls an hour, how many went wrong, how long they took, and since when it does not answer. */
export class ServiceHealth {
  private hours = new Map<string, Hour>();
  private timer: NodeJS.Timeout | null = null;

  constructor(private readonly parts: { pool: pg.Pool; now: () => number }) {}

  saw({ connectionId, well, ms, problem, at }: CallSeen): void {
    const hour = new Date(Math.floor(at / 3_600_000) * 3_600_000).toISOString();
    const key = `${connectionId} ${hour}`;
    const of = this.hours.get(key) ?? {
      connectionId,
      hour,
      calls: 0,
      failed: 0,
      ms: 0,
      most: 0,
      okAt: null,
      badAt: null,
      problem: '',
    };
    of.calls += 1;
    of.ms += ms;
    of.most = Math.max(of.most, ms);
    const when = new Date(at).toISOString();
    if (well) of.okAt = when;
    else {
      of.failed += 1;
      of.badAt = when;
      of.problem = problem;
    }
    this.hours.set(key, of);
    this.timer ??= setTimeout(() => void this.write(), WRITE_EVERY_MS);
  }

  /** Writes what has been seen since the last time. */
  async write(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    const rows = [...this.hours.values()];
    this.hours = new Map();
    if (rows.length === 0) return;
    try {
      await this.parts.pool.query(WRITE, [
        JSON.stringify(rows.sort((a, b) => (a.connectionId < b.connectionId ? -1 : 1))),
      ]);
      const ids = [...new Set(rows.map(({ connectionId }) => connectionId))];
      await this.parts.pool.query(ALL_CLEAR, [ids]);
      await this.parts.pool.query(ALARM, [ids]);
    } catch (error) {
      // How a service does is no matter of life and death: it is told anew with the next calls.
      log.warn({ scope: 'connections', err: error }, 'how services do was not written down');
    }
  }
}

/** What is seen of a connection that is gone meanwhile is let go. */
const WRITE = `
with seen as (select x.*, c.business_id from jsonb_to_recordset($1::jsonb) as x("connectionId" uuid, hour timestamptz, calls int, failed int, ms bigint, most int,
    "okAt" timestamptz, "badAt" timestamptz, problem text) join connection c on c.id = x."connectionId"),
  hours as (insert into connection_hour as h (connection_id, hour, business_id, calls, failed, ms_total, ms_most)
    select "connectionId", hour, business_id, calls, failed, ms, most from seen
    on conflict (connection_id, hour) do update set calls = h.calls + excluded.calls, failed = h.failed + excluded.failed,
      ms_total = h.ms_total + excluded.ms_total, ms_most = greatest(h.ms_most, excluded.ms_most)),
  latest as (select distinct on ("connectionId") "connectionId", business_id, max("okAt") over w as ok, max("badAt") over w as bad, problem
    from seen window w as (partition by "connectionId") order by "connectionId", "badAt" desc nulls last)
insert into connection_health as h (connection_id, business_id, last_ok_at, trouble_since, problem)
select "connectionId", business_id, ok, case when bad is not null and (ok is null or bad > ok) then bad end,
  case when bad is not null and (ok is null or bad > ok) then problem else '' end from latest
on conflict (connection_id) do update set last_ok_at = greatest(h.last_ok_at, excluded.last_ok_at),
  trouble_since = case when excluded.trouble_since is null then null when h.trouble_since is not null and excluded.last_ok_at is null then h.trouble_since else excluded.trouble_since end,
  problem = excluded.problem`;

/** So long without a good answer before a person is told: a hiccup is nobody's business. */
const TELL_AFTER = '2 minutes';

/** One entry for each outage, however long it lasts and whoever sees it. */
const ALARM = `
with told as (update connection_health h set told_at = now() from connection c
  where c.id = h.connection_id and h.connection_id = any($1::uuid[]) and h.told_at is null and h.trouble_since < now() - interval '${TELL_AFTER}'
  returning h.connection_id, h.business_id, c.name, h.problem)
insert into needs_you (id, business_id, kind, subject, title, detail, created_at)
select gen_random_uuid(), business_id, 'service_trouble', 'connection:' || connection_id, name || ' does not answer',
  case when problem = '' then '' else rtrim(problem, '.') || '. ' end || 'What was to go by it waits, and goes on by itself once it answers again.', now() from told
on conflict (business_id, subject) do update set title = excluded.title, detail = excluded.detail, created_at = excluded.created_at, settled_at = null, settled_by_id = null`;

/** It answers again: nobody need do anything. */
const ALL_CLEAR = `
with clear as (update connection_health set told_at = null where connection_id = any($1::uuid[]) and told_at is not null and trouble_since is null
  returning business_id, connection_id)
update needs_you n set settled_at = now() from clear where n.business_id = clear.business_id and n.subject = 'connection:' || clear.connection_id and n.settled_at is null`;
