import { CHAT_WINDOW_MS } from '../../core/message/chat-window.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { allConsents, messageScope, type RunContext } from '../../core/workflow/run-context.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { type ConversationRecord, findConversation } from './find-conversation.ts';
import { type ConversationRow, rowOf } from './list-conversations.ts';
import { consentsOf, contextOf, ownerOf } from './message-context.ts';
import { type ReadyAnswer, readyAnswers } from './ready-answers.ts';
import { type ThreadItem, threadOf } from './thread.ts';
import { type Way, waysTo } from './ways.ts';

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

async function lastChatAt(use: Use, leadId: string): Promise<number | null> {
  const { rows } = await use.db.query<{ at: Date | null }>(
    `select max(received_at) as at from inbound where lead_id = $1 and channel = 'chat'`,
    [leadId],
  );
  return rows[0]?.at?.getTime() ?? null;
}

/** A kept answer as this person would read it; as it was written where that cannot be. */
function filledIn(context: RunContext | null, text: string, now: number): string {
  const rendered = context && renderTemplate(text, messageScope(context, now));
  return rendered?.ok ? rendered.text : text;
}

/** A colleague who is writing an answer this moment. */
function typingBy(row: ConversationRecord, use: Use): string | null {
  if (!row.typing_by_id || row.typing_by_id === use.actor.personId) return null;
  return (row.typing_until?.getTime() ?? 0) > use.runtime.now() ? row.typing_by : null;
}

const NO_CONSENTS = { consent: allConsents(), marketing: allConsents() };

/** One conversation: everything written both ways, and how it may be answered. Looking at it marks it read. */
export async function getConversation(use: Use, id: string, looked = true): Promise<ConversationView> {
  const { db } = use;
  const now = use.runtime.now();
  const row = await findConversation(use, id);
  if (looked && row.unread > 0) {
    await db.query('update conversation set unread = 0 where id = $1', [id]);
    row.unread = 0;
    use.runtime.bell.ring(use.actor.businessId);
  }
  const [items, tags, runs, answers, consents, chatAt, catalogue] = await Promise.all([
    threadOf(use, row),
    db.query<{ name: string }>(
      'select g.name from lead_tag t join tag g on g.id = t.tag_id and g.removed_at is null where t.lead_id = $1 order by 1',
      [row.lead_id],
    ),
    db.query<{ under: number; held: number }>(
      `select count(*)::int as under, count(held_at)::int as held from run where lead_id = $1 and due_at is not null`,
      [row.lead_id],
    ),
    db.query<ConversationView['answers'][number]>(
      'select id, name, text from canned_answer where business_id = $1 and removed_at is null order by name',
      [use.actor.businessId],
    ),
    row.lead_id ? consentsOf(use, row.lead_id) : NO_CONSENTS,
    row.lead_id ? lastChatAt(use, row.lead_id) : null,
    catalogueFor(use),
  ]);
  const openUntil = chatAt === null ? 0 : chatAt + CHAT_WINDOW_MS;
  const chatOpen = openUntil > now;
  const context = row.lead_id ? contextOf(use, row, consents, ownerOf(row, catalogue)) : null;
  return {
    ...rowOf(row),
    items,
    ways: waysTo(row, { catalogue, consent: consents.consent, chatOpen }),
    phone: row.phone ?? row.sender,
    email: row.email ?? '',
    owner: row.owner ?? '',
    tags: tags.rows.map(({ name }) => name),
    underWay: runs.rows[0]?.under ?? 0,
    held: runs.rows[0]?.held ?? 0,
    typing: typingBy(row, use),
    firstName: row.first_name ?? '',
    answers: answers.rows.map((row) => ({ ...row, text: filledIn(context, row.text, now) })),
    ready: context ? readyAnswers({ context, catalogue, now, turn: null }) : [],
    chatOpenUntil: chatOpen ? new Date(openUntil).toISOString() : null,
  };
}
