import { v7 as uuidv7 } from 'uuid';
import { type ListLink, readListLink } from '../../core/consent/leave-link.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import { leaveEmails, leaveList, leaveNews } from '../../engine/lists/leave.ts';
import type { Runtime } from '../../runtime.ts';

/** What somebody sees who wants to leave: the lists they are on, without signing in. */
export interface LeavingView {
  businessName: string;
  /** Their address with most of it covered: whoever holds a forwarded mail learns nothing. */
  address: string;
  lists: { id: string; name: string; on: boolean }[];
  /** They have asked for no more emails at all. */
  stopped: boolean;
  /** The list the link came from; null for every email. */
  fromList: string | null;
}

/** "nadia@example.org" → "n…@example.org". */
const covered = (email: string): string => email.replace(/^(.)[^@]*/, '$1…');

const leavingKey = (runtime: Runtime): Buffer => runtime.secrets.derive('list-links');

export async function leavingView(runtime: Runtime, token: string): Promise<LeavingView | null> {
  const link = readListLink(leavingKey(runtime), 'leave', token);
  if (!link) return null;
  const { rows } = await runtime.pool.query(
    `select b.name, l.email, coalesce(consents_of(l.id, 'service') ->> 'email' = 'withdrawn', false) as stopped
     from lead l join business b on b.id = l.business_id where l.id = $1`,
    [link.leadId],
  );
  if (!rows[0]) return null;
  const lists = await runtime.pool.query(
    `select t.id, t.name, m.state = 'active' as on from list_member m join nurture_list t on t.id = m.list_id and t.removed_at is null where m.lead_id = $1
       and m.state in ('active', 'unsubscribed') order by t.name`,
    [link.leadId],
  );
  return {
    businessName: rows[0].name,
    address: covered(rows[0].email),
    lists: lists.rows,
    stopped: rows[0].stopped,
    fromList: link.listId,
  };
}

/** What somebody chose on the page, or by the one click of their mail program (RFC 8058). */
export type LeavingChoice = { what: 'all' | 'news'; how: string } | { what: 'some'; keep: string[]; how: string };

/** Does what somebody asked for. False when the link is not one of ours. */
export async function leave(runtime: Runtime, token: string, choice: LeavingChoice): Promise<boolean> {
  const link = readListLink(leavingKey(runtime), 'leave', token);
  if (!link) return false;
  await inTransaction(runtime.pool, async (client) => {
    const at = new Date(runtime.now());
    if (choice.what === 'all') return leaveEmails(client, link.leadId, choice.how, at);
    if (choice.what === 'news') return leaveNews(client, link.leadId, choice.how, at);
    const keep = choice.what === 'some' ? choice.keep : [];
    const { rows } = await client.query<{ list_id: string; state: string }>(
      `select list_id, state from list_member where lead_id = $1 and state in ('active', 'unsubscribed')`,
      [link.leadId],
    );
    for (const { list_id, state } of rows) {
      const wanted = keep.includes(list_id);
      if (!wanted && state === 'active') await leaveList(client, link.leadId, list_id, at);
      // Back by their own wish: the only way back there is.
      if (wanted && state === 'unsubscribed')
        await runtime.membership.joinAgain(client, link.leadId, list_id, runtime.now());
    }
  });
  return true;
}

/** The one click of a mail program: off the list the mail went to, or off every email when it went to none. */
export async function leaveByOneClick(runtime: Runtime, token: string): Promise<boolean> {
  const link = readListLink(leavingKey(runtime), 'leave', token);
  if (!link) return false;
  await inTransaction(runtime.pool, (client) => oneClick(client, link, new Date(runtime.now())));
  return true;
}

async function oneClick(
  client: Parameters<Parameters<typeof inTransaction>[1]>[0],
  { leadId, listId }: ListLink,
  at: Date,
): Promise<void> {
  const how = 'Unsubscribed by their mail program';
  if (listId === null) return leaveEmails(client, leadId, how, at);
  await leaveList(client, leadId, listId, at);
  await client.query(
    `insert into lead_note (id, business_id, lead_id, text, at, run_id) select $1, business_id, id, $3, $4, null from lead where id = $2`,
    [uuidv7(), leadId, how, at],
  );
}

/** The list a link asks to confirm, and whether it still waits for that; null when the link is not one of ours. */
export async function confirmingView(
  runtime: Runtime,
  token: string,
): Promise<{ businessName: string; list: string; state: string } | null> {
  const link = readListLink(leavingKey(runtime), 'confirm', token);
  if (!link?.listId) return null;
  const { rows } = await runtime.pool.query<{ businessName: string; list: string; state: string }>(
    `select b.name as "businessName", t.name as list, m.state from list_member m join nurture_list t on t.id = m.list_id
     join business b on b.id = t.business_id where m.list_id = $1 and m.lead_id = $2`,
    [link.listId, link.leadId],
  );
  return rows[0] ?? null;
}

/** They say yes. False when there is nothing to confirm. */
export async function confirmList(runtime: Runtime, token: string): Promise<boolean> {
  const link = readListLink(leavingKey(runtime), 'confirm', token);
  if (!link?.listId) return false;
  const { leadId, listId } = link;
  return inTransaction(runtime.pool, (client) => runtime.membership.confirm(client, leadId, listId, runtime.now()));
}
