import { randomBytes } from 'node:crypto';
import { LockMode } from '@mikro-orm/core';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { keyFromLabel } from '../../core/fields/field.ts';
import { isEverybody, type LeadChoice } from '../../core/people/lead-choice.ts';
import type { MemberState } from '../../core/people/member-state.ts';
import { NurtureList } from '../../db/entities/nurture.ts';
import { Source } from '../../db/entities/source.ts';
import { leaveList } from '../../engine/lists/leave.ts';
import { demand } from '../actor.ts';
import { behind, choose } from '../leads/choosing.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';
import { workflowsNaming } from '../workflows/used-by.ts';
import { type SequenceView, sequencesOf } from './sequences.ts';

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
  fields: Record<string, string>;
}

export interface ListView {
  id: string;
  seen: string;
  name: string;
  optIn: 'single' | 'double';
  confirmSubject: string;
  confirmMessage: string;
  fields: { key: string; label: string }[];
  /** Asked to confirm so far, and how many did. */
  asked: number;
  confirmed: number;
  waiting: number;
  sequences: SequenceView[];
  active: number;
  left: number;
  usedBy: string[];
  /** How many fit the choice, and the choice itself, with the list in it. */
  found: number;
  choice: LeadChoice;
  members: MemberRow[];
  more: boolean;
}

const PAGE = 100;
const MOST_FIELDS = 30;
/** The lead's own fields, under their own names. */
const OWN_FIELDS = { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' };

export async function listLists(use: Use): Promise<ListRow[]> {
  const { rows } = await use.db.query<Omit<ListRow, 'usedBy'>>(
    `select l.id, l.name, count(m.lead_id) filter (where m.state = 'active')::int as active,
       count(m.lead_id) filter (where m.state not in ('active', 'waiting'))::int as "left",
       count(m.lead_id) filter (where m.joined_at > now() - interval '30 days')::int as joined
     from nurture_list l left join list_member m on m.list_id = l.id where l.business_id = $1 and l.removed_at is null group by l.id order by l.name`,
    [use.actor.businessId],
  );
  const users = await workflowsNaming(
    use,
    rows.map((row) => row.id),
  );
  return rows.map((row) => ({ ...row, usedBy: users.get(row.id) ?? [] }));
}

export async function createList(tx: Write, name: string): Promise<{ id: string }> {
  demand(tx.actor, 'build');
  const there = await tx.em.findOne(NurtureList, { business: tx.actor.businessId, name });
  if (there) throw new Refusal(422, 'name-taken', `There is a list called "${name}" already. Choose another name.`);
  const id = uuidv7();
  // What its sequences listen to: joining it is an arrival like any other.
  const source = tx.em.create(Source, {
    id: uuidv7(),
    business: tx.actor.businessId,
    kind: 'list',
    name,
    key: randomBytes(24).toString('base64url'),
    settings: { listId: id },
    card: { fields: OWN_FIELDS, consent: { kind: 'not_asked' } },
    cardConfirmed: true,
    secret: null,
    state: 'live',
    createdAt: new Date(),
  });
  const made = tx.em.create(NurtureList, { id, business: tx.actor.businessId, name, source, createdAt: new Date() });
  tx.note('list.create', made.id, { name });
  tx.forget();
  return { id: made.id };
}

/** One list with those of its people that are chosen, newest first; `before` goes on behind a lead. */
export async function getList(
  use: Use,
  id: string,
  asked: { choice: LeadChoice; before: string | null },
): Promise<ListView> {
  const list = await use.em.findOne(NurtureList, { id, business: use.actor.businessId });
  if (!list) throw notHere('list');
  const { db } = use;
  const choice = { ...asked.choice, list: { id, state: asked.choice.list?.state ?? null } };
  const chosen = await choose(use, choice);
  const [counts, page, found, users] = await Promise.all([
    db.query<Pick<ListView, 'active' | 'left' | 'waiting' | 'asked' | 'confirmed'> & { members: number }>(
      `select count(*)::int as members, count(*) filter (where state = 'active')::int as active, count(*) filter (where state not in ('active', 'waiting'))::int as "left",
         count(*) filter (where state = 'waiting')::int as waiting, count(asked_at)::int as asked, count(confirmed_at)::int as confirmed
       from list_member where list_id = $1`,
      [id],
    ),
    chosen.page('joined', behind(asked.before), PAGE),
    isEverybody(asked.choice) ? null : chosen.count(),
    workflowsNaming(use, [id]),
  ]);
  const members = await db.query(
    `select m.lead_id, m.state, m.how, m.joined_at, m.fields, l.first_name, l.last_name, l.email, l.phone
     from list_member m join lead l on l.id = m.lead_id where m.list_id = $1 and m.lead_id = any($2::uuid[]) order by array_position($2::uuid[], m.lead_id)`,
    [id, page.ids],
  );
  const { members: count, ...ofThem } = counts.rows[0]!;
  return {
    id,
    seen: seenAs(settingsOf(list)),
    name: list.name,
    optIn: list.optIn,
    confirmSubject: list.confirmSubject,
    confirmMessage: list.confirmMessage,
    fields: list.fields,
    sequences: await sequencesOf(use, list.source?.id ?? null),
    ...ofThem,
    usedBy: users.get(id) ?? [],
    more: page.more,
    found: found ?? count,
    choice,
    members: members.rows.map((row) => ({
      leadId: row.lead_id,
      name: `${row.first_name} ${row.last_name}`.trim() || row.email || row.phone,
      email: row.email,
      phone: row.phone,
      state: row.state,
      how: row.how,
      joinedAt: row.joined_at.toISOString(),
      fields: row.fields,
    })),
  };
}

export const ListInput = z.object({
  name: z.string().trim().min(1, 'Give the list a name').max(60),
  optIn: z.enum(['single', 'double']).default('single'),
  confirmSubject: z.string().max(300).default(''),
  confirmMessage: z
    .string()
    .max(5000)
    .default('')
    .refine(
      (text) => text.trim() === '' || text.includes('item.link'),
      'The email that asks needs the field for the link',
    ),
  fields: z
    .array(
      z.object({ key: z.string().min(1).max(60), label: z.string().trim().min(1, 'Give each field a name').max(60) }),
    )
    .max(MOST_FIELDS)
    .default([]),
});

/** What is set about a list. */
const settingsOf = ({
  name,
  optIn,
  confirmSubject,
  confirmMessage,
  fields,
}: Pick<ListView, 'name' | 'optIn' | 'confirmSubject' | 'confirmMessage' | 'fields'>) => ({
  ...{ name, optIn, confirmSubject, confirmMessage, fields },
});

export async function changeList(tx: Write, id: string, input: z.infer<typeof ListInput>): Promise<{ seen: string }> {
  demand(tx.actor, 'build');
  const list = await tx.em.findOne(
    NurtureList,
    { id, business: tx.actor.businessId },
    { lockMode: LockMode.PESSIMISTIC_WRITE },
  );
  if (!list) throw notHere('list');
  refuseUnseen(tx, 'list', settingsOf(list));
  const other = await tx.em.findOne(NurtureList, { business: tx.actor.businessId, name: input.name });
  if (other && other.id !== id)
    throw new Refusal(422, 'name-taken', `There is a list called "${input.name}" already. Choose another name.`);
  const said = ({ fields, ...settings }: ReturnType<typeof settingsOf>) => ({
    ...settings,
    fields: fields.map(({ label }) => label).join(', '),
  });
  const before = said(settingsOf(list));
  Object.assign(list, input);
  tx.note('list.change', id, { before, after: said(settingsOf(list)) });
  tx.forget();
  return { seen: seenAs(settingsOf(list)) };
}

/** Gives a list one more field of its own; one that has this name already stays as it is. */
export async function addListField(tx: Write, id: string, label: string): Promise<{ key: string }> {
  demand(tx.actor, 'build');
  const list = await tx.em.findOne(NurtureList, { id, business: tx.actor.businessId });
  if (!list) throw notHere('list');
  const there = list.fields.find((field) => field.label.toLowerCase() === label.toLowerCase());
  if (there) return { key: there.key };
  if (list.fields.length >= MOST_FIELDS)
    throw new Refusal(422, 'too-many', `A list has ${MOST_FIELDS} fields at most.`);
  const plain = keyFromLabel(label, 50);
  const key = list.fields.some((field) => field.key === plain) || plain === '' ? `field_${uuidv7().slice(-8)}` : plain;
  list.fields = [...list.fields, { key, label }];
  tx.note('list.field', id, { label });
  tx.forget();
  return { key };
}

/** Writes fields a member has on this list, by key; an empty text empties one. */
export async function changeMemberFields(
  tx: Write,
  listId: string,
  leadId: string,
  fields: Record<string, string>,
): Promise<void> {
  demand(tx.actor, 'do-work');
  const list = await tx.em.findOne(NurtureList, { id: listId, business: tx.actor.businessId });
  if (!list) throw notHere('list');
  const known = Object.fromEntries(
    Object.entries(fields).filter(([key]) => list.fields.some((field) => field.key === key)),
  );
  const { rowCount } = await tx.db.query(
    'update list_member set fields = fields || $3 where list_id = $1 and lead_id = $2',
    [listId, leadId, JSON.stringify(known)],
  );
  if (!rowCount) throw notHere('member');
  tx.note('list.member', leadId, { list: listId, fields: Object.keys(known) });
}

/** Takes somebody off a list by hand, or puts them on. Who has left by their own wish is not put on again. */
export async function changeMember(tx: Write, listId: string, leadId: string, on: boolean): Promise<void> {
  demand(tx.actor, 'do-work');
  const { rowCount } = await tx.db.query(
    'select from nurture_list t, lead l where t.removed_at is null and t.id = $1 and l.id = $2 and t.business_id = $3 and l.business_id = $3',
    [listId, leadId, tx.actor.businessId],
  );
  if (!rowCount) throw notHere('list');
  if (on) {
    const came = await tx.runtime.membership.join(tx.db, {
      businessId: tx.actor.businessId,
      listId,
      leadId,
      how: `Put on by ${tx.actor.name}`,
      runId: null,
      proven: false,
      fields: {},
      now: tx.runtime.now(),
    });
    if (came === 'there' || came === 'left')
      throw new Refusal(409, 'on-it-already', 'They are on this list already, or have left it by their own wish.');
  } else await leaveList(tx.db, leadId, listId, new Date(tx.runtime.now()));
  tx.note(on ? 'list.put_on' : 'list.take_off', leadId, { list: listId });
}
