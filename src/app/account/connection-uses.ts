import type { ConnectionKind } from '../../db/entities/connection.ts';
import type { Use } from '../use.ts';

/** Steps that send or look up by an account of each kind. */
export const SENDING_STEPS: Partial<Record<ConnectionKind, string[]>> = {
  text_carrier: ['text'],
  mail_server: ['email', 'mailing'],
  chat_network: ['chat', 'chat-template'],
  company_directory: ['company'],
};

/** What hangs on a connection, and how it does. */
export interface ConnectionUse {
  sources: { id: string; name: string }[];
  /** Live workflows with a step that sends or looks up by an account of its kind. */
  workflows: number;
  /** When its sources were last fetched from well, and since when one of them cannot be; null for never, and where nothing is fetched. */
  lastOkAt: string | null;
  troubleSince: string | null;
  /** When it took a message last, how many wait for it for a minute and longer, and since when; as far as the business's last messages tell. */
  lastTakenAt: string | null;
  waiting: number;
  waitingSince: string | null;
  /** When something came in last by its sources. */
  lastHeardAt: string | null;
}

/** So many of the last messages are looked at: enough to know how each account does, however many there are in all. */
const LAST_MESSAGES = 3000;

/** By the id of the connection. */
export async function connectionUses(use: Use): Promise<Map<string, ConnectionUse>> {
  const { rows } = await use.db.query<{
    id: string;
    kind: ConnectionKind;
    sources: ConnectionUse['sources'];
    last_ok: Date | null;
    trouble: Date | null;
    heard: Date | null;
    named_by: number;
  }>(
    `select c.id, c.kind, coalesce(jsonb_agg(jsonb_build_object('id', s.id, 'name', s.name) order by s.name) filter (where s.id is not null), '[]') as sources,
       max(p.last_ok_at) as last_ok, min(p.trouble_since) as trouble,
       max((select a.received_at from arrival a where a.source_id = s.id order by a.received_at desc limit 1)) as heard,
       -- A described service is named by its steps; of every other kind there is one that all steps use.
       case when c.kind in ('service', 'database') then (select count(*)::int from workflow w join workflow_version v on v.id = w.live_version_id
         where w.business_id = c.business_id and w.state = 'live' and v.definition::text like '%' || c.id || '%') else 0 end as named_by
     from connection c left join source s on s.business_id = c.business_id and s.removed_at is null and s.settings ->> 'connectionId' = c.id::text
     left join pull p on p.source_id = s.id where c.business_id = $1 and c.removed_at is null group by c.id`,
    [use.actor.businessId],
  );
  const live = await use.db.query<{ kind: string; n: number }>(
    `select step.kind, count(distinct w.id)::int as n from workflow w join workflow_version v on v.id = w.live_version_id,
       lateral (select distinct k #>> '{}' as kind from jsonb_path_query(v.definition, '$.moments[*].**.kind') k) step
     where w.business_id = $1 and w.state = 'live' group by step.kind`,
    [use.actor.businessId],
  );
  const taken = await use.db.query<{ id: string; taken: Date | null; waiting: number; since: Date | null }>(
    `select connection_id as id, max(accepted_at) as taken, count(*) filter (where late)::int as waiting, min(created_at) filter (where late) as since
     from (select connection_id, accepted_at, created_at, state = 'sending' and due_at is null and created_at < now() - interval '1 minute' as late
       from delivery where business_id = $1 and connection_id is not null order by created_at desc limit ${LAST_MESSAGES}) d group by connection_id`,
    [use.actor.businessId],
  );
  const messages = new Map(taken.rows.map((row) => [row.id, row]));
  const sends = (kind: ConnectionKind) =>
    Math.max(0, ...live.rows.filter((row) => SENDING_STEPS[kind]?.includes(row.kind)).map((row) => row.n));
  return new Map(
    rows.map(({ id, kind, sources, last_ok, trouble, heard, named_by }) => [
      id,
      {
        sources,
        workflows: kind === 'service' || kind === 'database' ? named_by : sends(kind),
        lastOkAt: last_ok?.toISOString() ?? null,
        troubleSince: trouble?.toISOString() ?? null,
        lastTakenAt: messages.get(id)?.taken?.toISOString() ?? null,
        waiting: messages.get(id)?.waiting ?? 0,
        waitingSince: messages.get(id)?.since?.toISOString() ?? null,
        lastHeardAt: heard?.toISOString() ?? null,
      },
    ]),
  );
}
