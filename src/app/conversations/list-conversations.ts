import type { Channel } from '../../core/workflow/channel.ts';
import { searchSql } from '../../engine/choosing/search-sql.ts';
import type { Use } from '../use.ts';

export interface ConversationRow {
  id: string;
  leadId: string | null;
  name: string;
  channel: Channel;
  lastText: string;
  lastIn: boolean;
  lastAt: string;
  unread: number;
  assignee: { id: string; name: string } | null;
  takenBy: { id: string; name: string } | null;
  done: boolean;
}

export const CONVERSATION_FILTERS = ['open', 'mine', 'unread', 'done'] as const;
export type ConversationFilter = (typeof CONVERSATION_FILTERS)[number];
const PAGE = 60;

/** What a conversation is read by, from `FROM`. */
export const ROW = `c.id, c.lead_id, c.sender, c.channel, c.last_text, c.last_in, c.last_at, c.unread, c.done_at, c.assignee_id, a.name as assignee, c.taken_by_id, t.name as taken_by,
  coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), c.sender) as name`;
export const FROM = `conversation c left join lead l on l.id = c.lead_id left join person a on a.id = c.assignee_id left join person t on t.id = c.taken_by_id`;

/** Of `FROM`, those of leads somebody works with; with somebody who is no lead, those they are to answer. */
export const theirs = (people: string): string =>
  `(${people}::uuid[] is null or c.assignee_id = any(${people}) or c.taken_by_id = any(${people}) or is_theirs(c.business_id, l.id, l.owner_id, ${people}))`;

/** A conversation as the columns above name it. */
export interface ConversationColumns {
  id: string;
  lead_id: string | null;
  sender: string;
  channel: Channel;
  last_text: string;
  last_in: boolean;
  last_at: Date;
  unread: number;
  done_at: Date | null;
  assignee_id: string | null;
  assignee: string | null;
  taken_by_id: string | null;
  taken_by: string | null;
  name: string;
}

export const rowOf = (row: ConversationColumns): ConversationRow => ({
  id: row.id,
  leadId: row.lead_id,
  name: row.name,
  channel: row.channel,
  lastText: row.last_text,
  lastIn: row.last_in,
  lastAt: row.last_at.toISOString(),
  unread: row.unread,
  assignee: row.assignee_id ? { id: row.assignee_id, name: row.assignee ?? '' } : null,
  takenBy: row.taken_by_id ? { id: row.taken_by_id, name: row.taken_by ?? '' } : null,
  done: row.done_at !== null,
});

/** Conversations, what came last on top. */
export async function listConversations(
  use: Use,
  { filter, search }: { filter: ConversationFilter; search: string },
): Promise<{ rows: ConversationRow[]; unread: number }> {
  const { db } = use;
  const { businessId, personId, leadsOf } = use.actor;
  const narrowed = {
    open: 'c.done_at is null',
    mine: 'c.done_at is null and (c.assignee_id = $2 or c.taken_by_id = $2)',
    unread: 'c.unread > 0',
    done: 'c.done_at is not null',
  }[filter];
  const values: unknown[] = [businessId, personId, `%${search.trim().replace(/[\\%_]/g, '\\$&')}%`, leadsOf];
  const wanted = searchSql(search, use.actor.country, (value) => {
    values.push(value);
    return `$${values.length}`;
  });
  const [found, unread] = await Promise.all([
    db.query<ConversationColumns>(
      `select ${ROW} from ${FROM} where c.business_id = $1 and $2::uuid is not null and ${narrowed} and ${theirs('$4')}
         and (${wanted.length === 0 ? 'true' : wanted.join(' and ')} or l.id is null and c.sender ilike $3) order by c.last_at desc limit ${PAGE}`,
      values,
    ),
    unreadCount(use),
  ]);
  return { rows: found.rows.map(rowOf), unread };
}

/** How many conversations have something in them that nobody has read. */
export async function unreadCount({ db, actor }: Use): Promise<number> {
  const { rows } = await db.query<{ n: number }>(
    `select count(*)::int as n from conversation c left join lead l on l.id = c.lead_id where c.business_id = $1 and c.unread > 0 and ${theirs('$2')}`,
    [actor.businessId, actor.leadsOf],
  );
  return rows[0]!.n;
}
