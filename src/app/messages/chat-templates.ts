import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { ChatTemplateContent, chatTemplateProblems, type TemplateState } from '../../core/message/chat-template.ts';
import { demand } from '../actor.ts';
import { changedOnItsWay, notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';
import { workflowsNaming } from '../workflows/used-by.ts';
import { handIn } from './chat-account.ts';

export interface ChatTemplateRow {
  id: string;
  name: string;
  kind: ChatTemplateContent['kind'];
  version: number;
  state: TemplateState;
  reason: string;
  /** The version that is sent; null while none is approved. */
  sentVersion: number | null;
  usedBy: string[];
}

export interface ChatTemplateView extends ChatTemplateRow {
  seen: string;
  content: ChatTemplateContent;
  problems: string[];
}

const LATEST = `select distinct on (t.id) t.id, t.name, v.id as version_id, v.number, v.content, v.state, v.reason, v.remote_id,
    (select max(a.number) from chat_template_version a where a.template_id = t.id and a.state = 'approved') as sent
  from chat_template t join chat_template_version v on v.template_id = t.id where t.business_id = $1 and t.removed_at is null`;

// biome-ignore lint/suspicious/noExplicitAny: a row as the statement above names it
const rowOf = (row: any, usedBy: string[]): ChatTemplateRow => ({
  id: row.id,
  name: row.name,
  kind: row.content.kind,
  version: row.number,
  state: row.state,
  reason: row.reason,
  sentVersion: row.sent,
  usedBy,
});

export async function listChatTemplates(use: Use): Promise<ChatTemplateRow[]> {
  await use.runtime.reviews.ask(use.actor.businessId);
  const { rows } = await use.db.query(`${LATEST} order by t.id, v.number desc`, [use.actor.businessId]);
  const users = await workflowsNaming(
    use,
    rows.map((row) => row.id),
  );
  return rows.map((row) => rowOf(row, users.get(row.id) ?? [])).sort((a, b) => a.name.localeCompare(b.name));
}

async function need(use: Use, id: string) {
  if (!z.uuid().safeParse(id).success) throw notHere('template');
  const { rows } = await use.db.query(`${LATEST} and t.id = $2 order by t.id, v.number desc`, [
    use.actor.businessId,
    id,
  ]);
  if (!rows[0]) throw notHere('template');
  return rows[0];
}

export async function getChatTemplate(use: Use, id: string): Promise<ChatTemplateView> {
  await use.runtime.reviews.ask(use.actor.businessId);
  const row = await need(use, id);
  const content = ChatTemplateContent.parse(row.content);
  return {
    ...rowOf(row, (await workflowsNaming(use, [id])).get(id) ?? []),
    content,
    seen: seenAs(row.content),
    problems: chatTemplateProblems(content),
  };
}

export const NewChatTemplate = z.object({ name: z.string().trim().min(1, 'Give the template a name').max(100) });

export async function createChatTemplate(
  tx: Write,
  { name }: z.infer<typeof NewChatTemplate>,
): Promise<{ id: string }> {
  demand(tx.actor, 'build');
  const { db } = tx;
  const id = uuidv7();
  const content: ChatTemplateContent = ChatTemplateContent.parse({
    kind: 'service',
    text: 'Hi {{ lead.first_name }}, thank you for asking.',
    samples: { 'lead.first_name': 'Robin' },
  });
  const { rowCount } = await db.query(
    `insert into chat_template (id, business_id, name, created_at) values ($1, $2, $3, now()) on conflict (business_id, name) where removed_at is null do nothing`,
    [id, tx.actor.businessId, name],
  );
  if (!rowCount)
    throw new Refusal(422, 'name-taken', `There is a chat template called "${name}" already. Choose another name.`);
  await db.query(
    `insert into chat_template_version (id, template_id, number, content, state, created_at) values ($1, $2, 1, $3, 'draft', now())`,
    [uuidv7(), id, JSON.stringify(content)],
  );
  tx.note('chat_template.create', id, { name });
  tx.forget();
  return { id };
}

/** Writes a version that nobody has approved anew; of one that is out for review, approved or withdrawn a new one is begun. */
export async function saveChatTemplate(tx: Write, id: string, content: ChatTemplateContent): Promise<ChatTemplateView> {
  demand(tx.actor, 'build');
  // Others who save it wait until this is done.
  await tx.db.query('select from chat_template where id = $1 and business_id = $2 and removed_at is null for update', [
    id,
    tx.actor.businessId,
  ]);
  const row = await need(tx, id);
  refuseUnseen(tx, 'template', row.content);
  // Sent for review meanwhile, it is not changed under the reviewer's eyes: a new version is begun.
  const { rowCount } = await tx.db.query(
    `update chat_template_version set content = $2, state = 'draft', reason = '' where id = $1 and state in ('draft', 'refused')`,
    [row.version_id, JSON.stringify(content)],
  );
  if (!rowCount)
    await tx.db.query(
      `insert into chat_template_version (id, template_id, number, content, state, created_at) values ($1, $2, $3, $4, 'draft', now())`,
      [uuidv7(), id, row.number + 1, JSON.stringify(content)],
    );
  tx.note('chat_template.save', id);
  await tx.em.flush();
  tx.forget();
  return getChatTemplate(tx, id);
}

/** Sends the newest version to the network for review. */
export async function sendForReview(use: Use, id: string): Promise<ChatTemplateView> {
  demand(use.actor, 'build');
  const row = await need(use, id);
  const content = ChatTemplateContent.parse(row.content);
  if (row.state === 'waiting' || row.state === 'approved')
    throw new Refusal(409, 'sent', 'This version has been sent already. Change it to begin a new one.');
  const [problem] = chatTemplateProblems(content);
  if (problem) throw new Refusal(422, 'not-ready', `It cannot be sent for review yet: ${problem}`);
  const name = `${row.name} (version ${row.number})`;
  const remoteId = await handIn(use, 'hand_in_template', { name, ...content, has_form: String(content.form !== '') });
  return use.write(async (tx) => {
    const sent = await tx.db.query(
      `update chat_template_version set state = 'waiting', remote_id = $2, reason = '' where id = $1 and content = $3::jsonb`,
      [row.version_id, remoteId, JSON.stringify(row.content)],
    );
    if (!sent.rowCount) throw changedOnItsWay();
    tx.note('chat_template.review', id, { version: row.number });
    await tx.em.flush();
    tx.forget();
    return getChatTemplate(tx, id);
  });
}

export async function removeChatTemplate(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const row = await need(tx, id);
  const users = (await workflowsNaming(tx, [id])).get(id) ?? [];
  if (users.length > 0)
    throw new Refusal(409, 'in-use', `It is used by ${users.join(', ')}. Choose another template there first.`);
  await tx.db.query('update chat_template set removed_at = $2 where id = $1', [id, new Date(tx.runtime.now())]);
  tx.note('chat_template.remove', id, { name: row.name });
  tx.forget();
}
