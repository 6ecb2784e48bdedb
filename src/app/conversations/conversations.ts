import { z } from 'zod';
import { CHAT_WINDOW_MS } from '../../core/message/chat-window.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { leadZone } from '../../core/time/phone-zone.ts';
import { CHANNEL_WORDS, CHANNELS, type Channel } from '../../core/workflow/channel.ts';
import {
  allConsents,
  type ConsentState,
  messageScope,
  type Owner,
  type RunContext,
  startContext,
} from '../../core/workflow/run-context.ts';
import type { SendingDesk } from '../../core/workflow/step-kind.ts';
import { searchSql } from '../../engine/choosing/search-sql.ts';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';
import { deskFor } from '../workflows/sample.ts';
import { type ReadyAnswer, readyAnswers } from './ready-answers.ts';

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

const ROW = `c.id, c.lead_id, c.sender, c.channel, c.last_text, c.last_in, c.last_at, c.unread, c.done_at, c.assignee_id, a.name as assignee, c.taken_by_id, t.name as taken_by,
  coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), c.sender) as name`;
const FROM = `conversation c left join lead l on l.id = c.lead_id left join person a on a.id = c.assignee_id left join person t on t.id = c.taken_by_id`;

/** A conversation as the columns above name it. */
interface ConversationColumns {
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

/** The same with who is typing and the lead it is with; without a lead the lead's own are null. */
interface ConversationRecord extends ConversationColumns, LeadRow {
  typing_by_id: string | null;
  typing_until: Date | null;
  typing_by: string | null;
  owner_id: string | null;
  owner: string | null;
}

const rowOf = (row: ConversationColumns): ConversationRow => ({
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
  const { businessId, personId } = use.actor;
  const narrowed = {
    open: 'c.done_at is null',
    mine: 'c.done_at is null and (c.assignee_id = $2 or c.taken_by_id = $2)',
    unread: 'c.unread > 0',
    done: 'c.done_at is not null',
  }[filter];
  const values: unknown[] = [businessId, personId, `%${search.trim().replace(/[\\%_]/g, '\\$&')}%`];
  const wanted = searchSql(search, use.actor.country, (value) => {
    values.push(value);
    return `$${values.length}`;
  });
  const [found, unread] = await Promise.all([
    db.query<ConversationColumns>(
      `select ${ROW} from ${FROM} where c.business_id = $1 and $2::uuid is not null and ${narrowed}
         and (${wanted.length === 0 ? 'true' : wanted.join(' and ')} or l.id is null and c.sender ilike $3) order by c.last_at desc limit ${PAGE}`,
      values,
    ),
    db.query<{ n: number }>('select count(*)::int as n from conversation where business_id = $1 and unread > 0', [
      businessId,
    ]),
  ]);
  return { rows: found.rows.map(rowOf), unread: unread.rows[0]!.n };
}

export interface ThreadItem {
  kind: 'in' | 'out' | 'note';
  at: string;
  channel: Channel | null;
  subject: string;
  text: string;
  /** What could be tapped: buttons, a form. */
  offers: string[];
  /** For what we sent: who or what did, and what became of it. */
  by: string;
  state: string;
  detail: string;
  runId: string | null;
  workflowId: string | null;
}

/** Whether we may answer on a channel right now, and what to know before. */
export interface Way {
  channel: Channel;
  can: boolean;
  /** In chat: an approved template may go, whether or not words may. */
  byTemplate: boolean;
  /** Why not; or what to know, empty when nothing. */
  words: string;
}

export interface ConversationView extends ConversationRow {
  items: ThreadItem[];
  ways: Way[];
  phone: string;
  email: string;
  owner: string;
  tags: string[];
  /** Workflows under way with this person, and how many are held. */
  underWay: number;
  held: number;
  typing: string | null;
  firstName: string;
  /** Answers written beforehand, with this person's own fields put in. */
  answers: { id: string; name: string; text: string }[];
  /** Templates and forms that can be sent in chat; empty when nothing can be sent there. */
  ready: ReadyAnswer[];
  /** Until when a free message in chat may be sent; null when it may not. */
  chatOpenUntil: string | null;
}

export async function findConversation(use: Use, id: string) {
  const found = z.uuid().safeParse(id).success
    ? await use.db.query<ConversationRecord>(
        `select ${ROW}, c.typing_by_id, c.typing_until, y.name as typing_by, l.first_name, l.last_name, l.email, l.phone, l.answers, l.own, l.owner_id, o.name as owner
         from ${FROM} left join person y on y.id = c.typing_by_id left join person o on o.id = l.owner_id where c.id = $1 and c.business_id = $2`,
        [id, use.actor.businessId],
      )
    : null;
  const row = found?.rows[0];
  if (!row) throw notHere('conversation');
  return row;
}

/** What they agreed to, for what they asked (`consent`) and for news and offers (`marketing`). */
export async function consentsOf(use: Use, leadId: string): Promise<Pick<RunContext, 'consent' | 'marketing'>> {
  type Known = Partial<Record<Channel, ConsentState>>;
  const { rows } = await use.db.query<{ service: Known; news: Known }>(
    `select consents_of($1, 'service') as service, consents_of($1, 'marketing') as news`,
    [leadId],
  );
  return { consent: allConsents(rows[0]!.service), marketing: allConsents(rows[0]!.news) };
}

async function lastChatAt(use: Use, leadId: string): Promise<number | null> {
  const { rows } = await use.db.query<{ at: Date | null }>(
    `select max(received_at) as at from inbound where lead_id = $1 and channel = 'chat'`,
    [leadId],
  );
  return rows[0]?.at?.getTime() ?? null;
}

/** One conversation: everything written both ways, and how it may be answered. Looking at it marks it read. */
export async function getConversation(use: Use, id: string, looked = true): Promise<ConversationView> {
  const { now } = use.runtime;
  const { db } = use;
  const row = await findConversation(use, id);
  if (looked && row.unread > 0) {
    await db.query('update conversation set unread = 0 where id = $1', [id]);
    row.unread = 0;
    use.runtime.bell.ring(use.actor.businessId);
  }
  const whose = row.lead_id ? 'lead_id = $1' : 'lead_id is null and business_id = $2 and sender = $3';
  const values = row.lead_id ? [row.lead_id] : [null, use.actor.businessId, row.sender];
  const [inbound, out, notes, tags, runs, answers, consents, chatAt, desk] = await Promise.all([
    db.query(
      `select received_at as at, channel, text, problem from inbound where ${row.lead_id ? whose : whose.replace('$2', '$1').replace('$3', '$2')} order by received_at desc limit 200`,
      row.lead_id ? values : values.slice(1),
    ),
    row.lead_id
      ? db.query(
          `select coalesce(d.accepted_at, d.created_at) as at, d.channel, d.message, d.state, d.detail, d.read_at, d.run_id, r.workflow_id, coalesce(p.name, w.name, '') as by
           from delivery d left join run r on r.id = d.run_id left join workflow w on w.id = r.workflow_id left join person p on p.id = d.sent_by_id
           where d.lead_id = $1 and d.audience = 'lead' and d.state not in ('draft', 'dropped') order by d.created_at desc limit 200`,
          [row.lead_id],
        )
      : { rows: [] },
    row.lead_id
      ? db.query(
          `select n.at, n.text, coalesce(p.name, '') as by from lead_note n left join person p on p.id = n.author_id where n.lead_id = $1 order by n.at desc limit 100`,
          [row.lead_id],
        )
      : { rows: [] },
    db.query('select g.name from lead_tag t join tag g on g.id = t.tag_id where t.lead_id = $1 order by 1', [
      row.lead_id,
    ]),
    db.query<{ under: number; held: number }>(
      `select count(*)::int as under, count(held_at)::int as held from run where lead_id = $1 and due_at is not null`,
      [row.lead_id],
    ),
    db.query<ReadyAnswer>('select id, name, text from canned_answer where business_id = $1 order by name', [
      use.actor.businessId,
    ]),
    row.lead_id ? consentsOf(use, row.lead_id) : NO_CONSENTS,
    row.lead_id ? lastChatAt(use, row.lead_id) : null,
    deskFor(use),
  ]);
  const items: ThreadItem[] = [
    ...inbound.rows.map(
      (one): ThreadItem => ({
        ...{ ...PLAIN, kind: 'in', at: one.at.toISOString(), channel: one.channel, text: one.text },
        detail: one.problem ?? '',
      }),
    ),
    ...out.rows.map(
      (one): ThreadItem => ({
        kind: 'out',
        at: one.at.toISOString(),
        channel: one.channel,
        subject: one.message.subject ?? one.message.heading ?? '',
        text: [one.message.text ?? '', one.message.closing].filter(Boolean).join('\n\n'),
        offers: [...(one.message.buttons ?? []), ...(one.message.form ? [`Form: ${one.message.form.name}`] : [])],
        by: one.by,
        state: one.read_at ? 'read' : one.state,
        detail: one.detail,
        runId: one.run_id,
        workflowId: one.workflow_id,
      }),
    ),
    ...notes.rows.map(
      (one): ThreadItem => ({ ...PLAIN, kind: 'note', at: one.at.toISOString(), text: one.text, by: one.by }),
    ),
  ].sort((a, b) => a.at.localeCompare(b.at));
  const openUntil = chatAt === null ? null : chatAt + CHAT_WINDOW_MS;
  const open = openUntil !== null && openUntil > now();
  const { consent } = consents;
  const context = row.lead_id ? contextOf(use, row, consents, ownerOf(row, desk)) : null;
  const way = (channel: Channel): Way => {
    const many = CHANNEL_WORDS[channel].many;
    const no = (words: string, byTemplate = false): Way => ({ channel, can: false, byTemplate, words });
    if (!desk[channel]) return no(`Nothing is connected that sends ${many}.`);
    if (!row.lead_id) return no('They are no lead yet, so they cannot be answered here.');
    if (consent[channel] === 'withdrawn') return no(`They want no more ${many}.`);
    if (channel === 'email' ? !row.email : !row.phone)
      return no(channel === 'email' ? 'No email address is known.' : 'No number is known.');
    if (channel === 'chat' && !open)
      return no('They have not written in chat for 24 hours: the network takes only an approved template now.', true);
    return {
      channel,
      can: true,
      byTemplate: channel === 'chat',
      words: consent[channel] === 'given' ? '' : `They never agreed to ${many}; answer what they asked.`,
    };
  };
  return {
    ...rowOf(row),
    items,
    ways: CHANNELS.map(way),
    phone: row.phone ?? row.sender,
    email: row.email ?? '',
    owner: row.owner ?? '',
    tags: tags.rows.map((one) => one.name),
    underWay: runs.rows[0]?.under ?? 0,
    held: runs.rows[0]?.held ?? 0,
    typing:
      row.typing_by_id && row.typing_by_id !== use.actor.personId && (row.typing_until?.getTime() ?? 0) > now()
        ? row.typing_by
        : null,
    firstName: row.first_name ?? '',
    answers: answers.rows.map((one) => ({ ...one, text: filledIn(context, one.text, now()) })),
    ready: context ? readyAnswers({ context, desk, now: now(), turn: null }) : [],
    chatOpenUntil: open ? new Date(openUntil).toISOString() : null,
  };
}

/** A kept answer as this person would read it; as it was written where that cannot be. */
function filledIn(context: RunContext | null, text: string, now: number): string {
  const rendered = context && renderTemplate(text, messageScope(context, now));
  return rendered?.ok ? rendered.text : text;
}

/** The colleague who looks after whoever the conversation is with. */
export const ownerOf = (row: { owner_id: string | null }, { colleagues }: Pick<SendingDesk, 'colleagues'>) =>
  colleagues.find((one) => one.id === row.owner_id) ?? null;

interface LeadRow {
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  answers: Record<string, string>;
  own?: Record<string, string>;
}

/** What a message written by hand may use. */
export function contextOf(
  use: Use,
  row: LeadRow,
  consents: Pick<RunContext, 'consent' | 'marketing'>,
  owner: Owner | null,
): RunContext {
  const { businessName, country, timeZone, holidays, locale } = use.actor;
  const person = { first_name: row.first_name, last_name: row.last_name, email: row.email, phone: row.phone };
  return startContext({ person, answers: row.answers }, person, {
    where: {},
    business: { name: businessName, country, timeZone, holidays, locale },
    zone: leadZone(row.phone, country),
    source: { name: '' },
    ...consents,
    own: row.own ?? {},
    owner,
  });
}

const NO_CONSENTS = { consent: allConsents(), marketing: allConsents() };

const PLAIN = {
  subject: '',
  offers: [] as string[],
  by: '',
  state: '',
  detail: '',
  runId: null,
  workflowId: null,
  channel: null,
};
