import type { SinceThen } from '../../core/notices/notices.ts';
import { mayDo, type Role } from '../../core/people/rights.ts';
import type { Db } from '../../db/db.ts';

/** Named in a notice at most; the rest is counted. */
const NEWEST = 3;

/** Something has come since `d` was told last, up to $1. Who was brought in by a file or by hand is no news. */
export const NEWS = `(
  'leads' = any(d.wants) and exists (select from lead l where l.business_id = d.business_id and l.created_at > d.told_until and l.created_at <= $1 and l.is_person)
  or 'conversations' = any(d.wants) and exists (select from conversation c where c.business_id = d.business_id and c.last_at > d.told_until and c.last_at <= $1 and c.last_in and c.unread > 0)
  or 'needs' = any(d.wants) and exists (select from needs_you n where n.business_id = d.business_id and n.created_at > d.told_until and n.created_at <= $1 and n.settled_at is null)
)`;

export interface Told {
  business_id: string;
  person_id: string;
  told_until: Date;
  until: Date;
}

/** What of that which has come in between somebody may see. */
export async function whatCame(pool: Db, { business_id, person_id, told_until, until }: Told): Promise<SinceThen> {
  const owner = await pool.query<{ role: Role; leads_of: string[] | null }>(
    'select role, leads_of(business_id, person_id) as leads_of from membership where business_id = $1 and person_id = $2',
    [business_id, person_id],
  );
  const nothing = { total: 0, newest: [] };
  const member = owner.rows[0];
  if (!member) return { leads: nothing, conversations: nothing, needs: nothing };
  const of = [business_id, told_until, until];
  const theirs = [...of, member.leads_of];
  const [leads, conversations, needs] = await Promise.all([
    pool.query<{ id: string; name: string; source: string; total: number }>(
      `select l.id, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), nullif(l.phone, ''), 'somebody') as name, s.name as source, count(*) over ()::int as total
       from lead l join lateral (select s.name, s.kind from arrival a join source s on s.id = a.source_id where a.lead_id = l.id order by a.received_at limit 1) s on s.kind <> 'import'
       where l.business_id = $1 and l.created_at > $2 and l.created_at <= $3 and l.is_person and is_theirs(l.business_id, l.id, l.owner_id, $4)
       order by l.created_at desc limit ${NEWEST}`,
      theirs,
    ),
    pool.query<{ id: string; name: string; text: string; total: number }>(
      `select c.id, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), c.sender) as name, c.last_text as text, count(*) over ()::int as total
       from conversation c left join lead l on l.id = c.lead_id
       where c.business_id = $1 and c.last_at > $2 and c.last_at <= $3 and c.last_in and c.unread > 0
         and ($4::uuid[] is null or c.assignee_id = any($4) or c.taken_by_id = any($4) or is_theirs(c.business_id, l.id, l.owner_id, $4))
       order by c.last_at desc limit ${NEWEST}`,
      theirs,
    ),
    pool.query<{ title: string; total: number }>(
      `select title, count(*) over ()::int as total from needs_you where business_id = $1 and created_at > $2 and created_at <= $3 and settled_at is null
       order by created_at desc limit ${NEWEST}`,
      of,
    ),
  ]);
  const told = <Row extends { total: number }>({ rows }: { rows: Row[] }) => ({
    total: rows[0]?.total ?? 0,
    newest: rows,
  });
  return {
    leads: told(leads),
    conversations: told(conversations),
    needs: mayDo(member.role, 'see-setup') ? told(needs) : nothing,
  };
}
