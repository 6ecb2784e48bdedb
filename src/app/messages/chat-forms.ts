import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { ChatForm, networkForm, newChatForm } from '../../core/form/chat-form.ts';
import { settleWordings } from '../../core/form/form-page.ts';
import { FrontDoor } from '../../core/message/front-door.ts';
import { readAs } from '../../core/read-as.ts';
import { templateProblem } from '../../core/template/template.ts';
import { demand } from '../actor.ts';
import { changedOnItsWay, notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';
import { workflowsNaming } from '../workflows/used-by.ts';
import { handIn } from './chat-account.ts';

export interface ChatFormRow {
  id: string;
  name: string;
  version: number;
  /** Whether the newest version is a draft. */
  draft: boolean;
  /** The version that is sent; null while none is live. */
  liveVersion: number | null;
  questions: number;
  /** How often it was sent, and how often it came back filled in. */
  sent: number;
  answered: number;
  usedBy: string[];
}

export interface ChatFormView extends ChatFormRow {
  seen: string;
  content: ChatForm;
}

const LATEST = `select distinct on (f.id) f.id, f.name, v.id as version_id, v.number, v.content, v.remote_id,
    (select max(a.number) from chat_form_version a where a.form_id = f.id and a.remote_id is not null) as live
  from chat_form f join chat_form_version v on v.form_id = f.id where f.business_id = $1 and f.removed_at is null`;

/** Forms sent and answered, by form. */
async function countsOf(use: Use): Promise<Map<string, { sent: number; answered: number }>> {
  const { rows } = await use.db.query<{ id: string; sent: number; answered: number }>(
    `select v.form_id as id, count(*)::int as sent, count(a.delivery_id)::int as answered from delivery d
       join chat_form_version v on v.id::text = d.message -> 'form' ->> 'versionId' left join form_answer a on a.delivery_id = d.id
     where d.business_id = $1 and d.channel = 'chat' and d.message -> 'form' is not null and d.audience = 'lead' group by 1`,
    [use.actor.businessId],
  );
  return new Map(rows.map(({ id, ...counts }) => [id, counts]));
}

interface LatestRow {
  id: string;
  name: string;
  version_id: string;
  number: number;
  content: ChatForm;
  remote_id: string | null;
  live: number | null;
}

async function rowsOf(use: Use, rows: LatestRow[]): Promise<ChatFormRow[]> {
  const [users, counts] = [
    await workflowsNaming(
      use,
      rows.map((row) => row.id),
    ),
    await countsOf(use),
  ];
  return rows.map((row) => ({
    ...{ id: row.id, name: row.name, version: row.number, draft: row.remote_id === null, liveVersion: row.live },
    questions: row.content.screens.reduce((sum, screen) => sum + screen.fields.length, 0),
    ...(counts.get(row.id) ?? { sent: 0, answered: 0 }),
    usedBy: users.get(row.id) ?? [],
  }));
}

export async function listChatForms(use: Use): Promise<ChatFormRow[]> {
  const { rows } = await use.db.query<LatestRow>(`${LATEST} order by f.id, v.number desc`, [use.actor.businessId]);
  return (await rowsOf(use, rows)).sort((a, b) => a.name.localeCompare(b.name));
}

async function need(use: Use, id: string): Promise<LatestRow> {
  const found = z.uuid().safeParse(id).success
    ? await use.db.query<LatestRow>(`${LATEST} and f.id = $2 order by f.id, v.number desc`, [use.actor.businessId, id])
    : null;
  const row = found?.rows[0];
  if (!row) throw notHere('form');
  return row;
}

export async function getChatForm(use: Use, id: string): Promise<ChatFormView> {
  const row = await need(use, id);
  return { ...(await rowsOf(use, [row]))[0]!, content: row.content, seen: seenAs(row.content) };
}

export const NewChatForm = z.object({ name: z.string().trim().min(1, 'Give the form a name').max(60) });

export async function createChatForm(tx: Write, { name }: z.infer<typeof NewChatForm>): Promise<{ id: string }> {
  demand(tx.actor, 'build');
  const { now } = tx.runtime;
  const { db } = tx;
  const id = uuidv7();
  // Put live as it is, its wording has a version too.
  const content = settleWordings(null, newChatForm(name, tx.actor.businessName), new Date(now()).toISOString());
  const { rowCount } = await db.query(
    `insert into chat_form (id, business_id, name, created_at) values ($1, $2, $3, now()) on conflict (business_id, name) where removed_at is null do nothing`,
    [id, tx.actor.businessId, name],
  );
  if (!rowCount)
    throw new Refusal(422, 'name-taken', `There is a chat form called "${name}" already. Choose another name.`);
  await db.query(
    `insert into chat_form_version (id, form_id, number, content, created_at) values ($1, $2, 1, $3, now())`,
    [uuidv7(), id, JSON.stringify(content)],
  );
  tx.note('chat_form.create', id, { name });
  tx.forget();
  return { id };
}

/** Others who save it wait until this is done. */
const lockForm = (tx: Write, id: string) =>
  tx.db.query('select from chat_form where id = $1 and business_id = $2 and removed_at is null for update', [
    id,
    tx.actor.businessId,
  ]);

/** Writes the draft anew; of a version that is live a new one is begun. A changed wording is a wording of its own. */
export async function saveChatForm(tx: Write, id: string, content: ChatForm): Promise<ChatFormView> {
  demand(tx.actor, 'build');
  await lockForm(tx, id);
  const row = await need(tx, id);
  refuseUnseen(tx, 'form', row.content);
  const { now } = tx.runtime;
  const { db } = tx;
  // Of a draft the wording has been seen by nobody: it goes by the one that was live before.
  const before = await db.query<{ content: ChatForm }>(
    'select content from chat_form_version where form_id = $1 and remote_id is not null order by number desc limit 1',
    [id],
  );
  const kept = before.rows[0]?.content ?? null;
  const settled = settleWordings(
    kept,
    { ...content, consent: { ...content.consent, wordings: kept?.consent.wordings ?? [] } },
    new Date(now()).toISOString(),
  );
  const { rowCount } = await tx.db.query(
    'update chat_form_version set content = $2 where id = $1 and remote_id is null',
    [row.version_id, JSON.stringify(settled)],
  );
  // Put live meanwhile, it stays as it went out: a new version is begun.
  if (!rowCount)
    await tx.db.query(
      `insert into chat_form_version (id, form_id, number, content, created_at) values ($1, $2, $3, $4, now())`,
      [uuidv7(), id, row.number + 1, JSON.stringify(settled)],
    );
  tx.note('chat_form.save', id);
  await tx.em.flush();
  tx.forget();
  return getChatForm(tx, id);
}

/** Hands the newest version to the network: from then on it is the one that is sent. */
export async function putFormLive(use: Use, id: string): Promise<ChatFormView> {
  demand(use.actor, 'build');
  const row = await need(use, id);
  if (row.remote_id !== null) throw new Refusal(409, 'live', 'This version is live already.');
  const content = readAs(ChatForm, row.content);
  if (!content.success)
    throw new Refusal(422, 'not-ready', `It cannot go live yet: ${content.error.issues[0]?.message ?? ''}.`);
  const remoteId = await handIn(use, 'hand_in_form', networkForm(`${row.name} (version ${row.number})`, content.data));
  return use.write(async (tx) => {
    const live = await tx.db.query(
      'update chat_form_version set remote_id = $2 where id = $1 and remote_id is null and content = $3::jsonb',
      [row.version_id, remoteId, JSON.stringify(row.content)],
    );
    if (!live.rowCount) throw changedOnItsWay();
    tx.note('chat_form.live', id, { version: row.number });
    await tx.em.flush();
    tx.forget();
    return getChatForm(tx, id);
  });
}

export async function removeChatForm(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const row = await need(tx, id);
  const users = (await workflowsNaming(tx, [id])).get(id) ?? [];
  if (users.length > 0)
    throw new Refusal(409, 'in-use', `It is used by ${users.join(', ')}. Choose another form there first.`);
  const door = await getFrontDoor(tx);
  if (door?.door.on && door.door.form === id)
    throw new Refusal(409, 'in-use', 'The front door asks for it. Choose another form there first.');
  const templates = await tx.db.query<{ name: string }>(
    `select distinct t.name from chat_template t join chat_template_version v on v.template_id = t.id where t.business_id = $1 and t.removed_at is null and v.content ->> 'form' = $2`,
    [tx.actor.businessId, id],
  );
  if (templates.rows[0])
    throw new Refusal(409, 'in-use', `The chat template ${templates.rows[0].name} opens it. Change that first.`);
  await tx.db.query('update chat_form set removed_at = $2 where id = $1', [id, new Date(tx.runtime.now())]);
  tx.note('chat_form.remove', id, { name: row.name });
  tx.forget();
}

/** Who is served in chat, with how many came through; null while no chat network is connected. */
export async function getFrontDoor(
  use: Use,
): Promise<{ connectionId: string; door: FrontDoor; seen: string; asked: number; through: number } | null> {
  const { settingsCache } = use.runtime;
  const { db } = use;
  const { catalogue } = await settingsCache.provisionsOf(use.actor.businessId);
  if (!catalogue.chat) return null;
  const { connectionId } = catalogue.chat;
  const { rows } = await db.query<{ door: unknown }>(
    `select settings -> 'frontDoor' as door from connection where id = $1`,
    [connectionId],
  );
  const door = FrontDoor.parse(rows[0]?.door ?? {});
  const counts = await db.query<{ asked: number; through: number }>(
    `select (select count(distinct lead_id)::int from delivery where business_id = $1 and step_id = 'front-door' and message -> 'form' is not null) as asked,
       (select count(distinct a.lead_id)::int from form_answer a join chat_form_version v on v.id = a.version_id
        where a.business_id = $1 and v.form_id::text = $2) as through`,
    [use.actor.businessId, door.form],
  );
  return { connectionId, door, seen: seenAs(door), ...counts.rows[0]! };
}

export async function changeFrontDoor(tx: Write, door: FrontDoor): Promise<{ seen: string }> {
  demand(tx.actor, 'build');
  const at = await getFrontDoor(tx);
  if (!at) throw new Refusal(409, 'no-network', 'No chat network is connected yet. Connect one under Connections.');
  await tx.db.query('select from connection where id = $1 for update', [at.connectionId]);
  refuseUnseen(tx, 'front door', (await getFrontDoor(tx))?.door);
  for (const words of [door.message, door.greeting]) {
    const wrong = templateProblem(words);
    if (wrong) throw new Refusal(422, 'template', wrong.text);
  }
  if (door.on && door.message === '') throw new Refusal(422, 'empty', 'Write what comes with the form.');
  if (door.on) {
    const { catalogue } = await tx.runtime.settingsCache.provisionsOf(tx.actor.businessId);
    if (!catalogue.chatForms.some((chatForm) => chatForm.id === door.form && chatForm.live))
      throw new Refusal(422, 'no-form', 'Choose a form that is live: nobody could come through otherwise.');
  }
  await tx.db.query(
    `update connection set settings = settings || jsonb_build_object('frontDoor', $2::jsonb) where id = $1`,
    [at.connectionId, JSON.stringify(door)],
  );
  tx.note('front_door.change', at.connectionId, { before: at.door, after: door });
  tx.forget();
  return { seen: seenAs(door) };
}
