import { v7 as uuidv7 } from 'uuid';
import type { MemberState } from '../db/entities/nurture.ts';
import { NurtureList } from '../db/entities/nurture.ts';
import { inTransaction } from '../db/in-transaction.ts';
import { tellOf } from '../engine/tell-of.ts';
import { audit, demand, notHere, Refusal, type Use } from './actor.ts';
import { workflowsNaming } from './used-by.ts';

export interface ListRow {
  id: string;
  name: string;
  active: number;
  left: number;
  /** How many joined in the last 30 days. */
  joined: number;
  usedBy: string[];
}

export interface MemberRow {
  leadId: string;
  name: string;
  email: string;
  phone: string;
  state: MemberState;
  how: string;
  joinedAt: string;
}

export interface ListView {
  id: string;
  name: string;
  active: number;
  left: number;
  usedBy: string[];
  members: MemberRow[];
  more: boolean;
}

const PAGE = 100;

export async function listLists(use: Use): Promise<ListRow[]> {
  const { rows } = await use.runtime.pool.query(
    `select l.id, l.name, count(m.lead_id) filter (where m.state = 'active')::int as active,
       count(m.lead_id) filter (where m.state not in ('active', 'waiting'))::int as "left",
       count(m.lead_id) filter (where m.joined_at > now() - interval '30 days')::int as joined
     from nurture_list l left join list_member m on m.list_id = l.id where l.business_id = $1 group by l.id order by l.name`,
    [use.actor.businessId],
  );
  const users = await workflowsNaming(
    use,
    rows.map((row) => row.id),
  );
  return rows.map((row) => ({ ...row, usedBy: users.get(row.id) ?? [] }));
}

export async function createList(use: Use, name: string): Promise<{ id: string }> {
  demand(use.actor, 'coordinator');
  const there = await use.em.findOne(NurtureList, { business: use.actor.businessId, name });
  if (there) throw new Refusal(422, 'name-taken', `There is a list called "${name}" already. Choose another name.`);
  const made = use.em.create(NurtureList, {
    id: uuidv7(),
    business: use.actor.businessId,
    name,
    createdAt: new Date(),
  });
  audit(use.em, use.actor, 'list.create', made.id, { name });
  await use.em.flush();
  use.runtime.directory.forget();
  return { id: made.id };
}

/** One list with its people, newest first; `before` goes on behind somebody who joined at that time. */
export async function getList(
  use: Use,
  id: string,
  asked: { search: string; state: string; before: string | null },
): Promise<ListView> {
  const list = await use.em.findOne(NurtureList, { id, business: use.actor.businessId });
  if (!list) throw notHere('list');
  const { pool } = use.runtime;
  const [counts, members, users] = await Promise.all([
    pool.query(
      `select count(*) filter (where state = 'active')::int as active, count(*) filter (where state not in ('active', 'waiting'))::int as "left"
       from list_member where list_id = $1`,
      [id],
    ),
    pool.query(
      `select m.lead_id, m.state, m.how, m.joined_at, l.first_name, l.last_name, l.email, l.phone
       from list_member m join lead l on l.id = m.lead_id where m.list_id = $1 and ($2 = '' or m.state = $2)
         and ($3 = '' or l.first_name || ' ' || l.last_name ilike '%' || $3 || '%' or l.email ilike '%' || $3 || '%')
         and ($4::timestamptz is null or m.joined_at < $4) order by m.joined_at desc limit $5`,
      [id, asked.state, asked.search.replace(/[\\%_]/g, '\\$&'), asked.before, PAGE + 1],
    ),
    workflowsNaming(use, [id]),
  ]);
  return {
    id,
    name: list.name,
    ...counts.rows[0],
    usedBy: users.get(id) ?? [],
    more: members.rows.length > PAGE,
    members: members.rows.slice(0, PAGE).map((row) => ({
      leadId: row.lead_id,
      name: `${row.first_name} ${row.last_name}`.trim() || row.email || row.phone,
      email: row.email,
      phone: row.phone,
      state: row.state,
      how: row.how,
      joinedAt: row.joined_at.toISOString(),
    })),
  };
}

/** Takes somebody off a list by hand, or puts them on. Who has left by their own wish is not put on again. */
export async function changeMember(use: Use, listId: string, leadId: string, on: boolean): Promise<void> {
  demand(use.actor, 'coordinator');
  await inTransaction(use.runtime.pool, async (client) => {
    const { rowCount } = await client.query(
      'select from nurture_list t, lead l where t.id = $1 and l.id = $2 and t.business_id = $3 and l.business_id = $3',
      [listId, leadId, use.actor.businessId],
    );
    if (!rowCount) throw notHere('list');
    if (on) {
      const put = await client.query(
        `insert into list_member (list_id, lead_id, state, how, joined_at, changed_at) values ($1, $2, 'active', $3, now(), now())
         on conflict (list_id, lead_id) do nothing`,
        [listId, leadId, `Put on by ${use.actor.name}`],
      );
      if (!put.rowCount)
        throw new Refusal(409, 'on-it-already', 'They are on this list already, or have left it by their own wish.');
      await tellOf(client, leadId, { event: 'list', list: listId });
    } else
      await client.query(
        `update list_member set state = 'unsubscribed', changed_at = now() where list_id = $1 and lead_id = $2 and state in ('active', 'waiting')`,
        [listId, leadId],
      );
  });
  audit(use.em, use.actor, on ? 'list.put_on' : 'list.take_off', leadId, { list: listId });
  await use.em.flush();
}

/** How many an email to "list:ID" or "tag:ID" would be for, and how many of them it would reach as things are. */
export async function countAudience(
  use: Use,
  to: string,
  needsConsent: boolean,
): Promise<{ people: number; reached: number }> {
  const [kind = '', id = ''] = to.split(':');
  if (!/^[0-9a-f-]{36}$/i.test(id)) throw notHere('list');
  const from =
    kind === 'tag'
      ? 'lead_tag x join tag t on t.id = x.tag_id where x.tag_id = $2'
      : `list_member x join nurture_list t on t.id = x.list_id where x.list_id = $2 and x.state = 'active'`;
  const { rows } = await use.runtime.pool.query<{ people: number; reached: number }>(
    `select count(*)::int as people, count(*) filter (where l.email <> '' and coalesce(c.state, 'unknown') <> 'withdrawn'
       and (not $3 or c.state = 'given'))::int as reached
     from (select x.lead_id from ${from} and t.business_id = $1) m join lead l on l.id = m.lead_id
     left join lateral (select state from consent where lead_id = l.id and channel = 'email' order by at desc, id desc limit 1) c on true`,
    [use.actor.businessId, id, needsConsent],
  );
  return rows[0]!;
}
