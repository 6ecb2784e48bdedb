import type { QueryResultRow } from 'pg';
import { z } from 'zod';
import type { ConsentState } from '../../core/consent/precedence.ts';
import { labelFromKey } from '../../core/fields/field.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import type { Channel } from '../../core/workflow/channel.ts';
import { consentOrder } from '../../db/hot/consent-order.ts';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';
import { leadName, type Named } from './lead-name.ts';
import { type LeadEvent, storyOf } from './lead-story.ts';

interface ConsentView {
  state: 'unknown' | ConsentState;
  at: string | null;
  wording: string;
  how: string;
  version: string;
  address: string;
}
interface LabelledValue {
  label: string;
  value: string;
}
interface Touch {
  at: string;
  where: WhereFrom;
}

export interface LeadView {
  id: string;
  name: string;
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  answers: LabelledValue[];
  /** Fields the business has given them. */
  own: LabelledValue[];
  createdAt: string;
  firstTouch: Touch | null;
  lastTouch: Touch | null;
  consent: Record<Channel, ConsentView>;
  events: LeadEvent[];
  owner: string | null;
  tags: string[];
  lists: { name: string; on: boolean; fields: LabelledValue[] }[];
  /** Other leads that were made one with this, and can be parted again. */
  merges: { id: string; name: string }[];
  deals: { title: string; value: string | null; currency: string; stage: string; movedAt: string; closed: boolean }[];
  tasks: { id: string; title: string; dueAt: string; colleague: string; done: boolean }[];
}

interface LeadRow extends QueryResultRow, Named {
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  created_at: Date;
  answers: Record<string, string>;
  own: Record<string, string>;
  owner: string | null;
}

const filled = (values: Record<string, string>, label: (key: string) => string): LabelledValue[] =>
  Object.entries(values)
    .filter(([, value]) => value !== '')
    .map(([key, value]) => ({ label: label(key), value }));

/** What the questions were called where they were asked; of two wordings the older one. */
async function labelsOf({ db }: Use, id: string): Promise<ReadonlyMap<string, string>> {
  const { rows } = await db.query<{ fields: { key: string; label: string }[] }>(
    `select a.fields from arrival a join source s on s.id = a.source_id where a.lead_id = $1 and s.kind <> 'list' order by a.received_at desc limit 100`,
    [id],
  );
  return new Map(rows.flatMap(({ fields }) => fields.map(({ key, label }) => [key, label] as const)));
}

async function consentsOf({ db }: Use, id: string): Promise<LeadView['consent']> {
  const { rows } = await db.query<Omit<ConsentView, 'at'> & { channel: Channel; at: Date }>(
    `select distinct on (c.channel) c.channel, c.state, c.wording, c.how, c.version, c.address, c.at from consent c
     where c.lead_id = $1 and c.purpose is distinct from 'marketing' order by c.channel, ${consentOrder('c')}`,
    [id],
  );
  const view = (wanted: Channel): ConsentView => {
    const row = rows.find(({ channel }) => channel === wanted);
    if (!row) return { state: 'unknown', at: null, wording: '', how: '', version: '', address: '' };
    const { channel: _, at, ...rest } = row;
    return { ...rest, at: at.toISOString() };
  };
  return { text: view('text'), email: view('email'), chat: view('chat') };
}

/** First and last. */
async function touchesOf({ db }: Use, id: string): Promise<[Touch | null, Touch | null]> {
  const { rows } = await db.query<{ at: Date; where_from: WhereFrom }>(
    '(select at, where_from from touch where lead_id = $1 order by at limit 1) union all (select at, where_from from touch where lead_id = $1 order by at desc limit 1)',
    [id],
  );
  const touch = (row: (typeof rows)[number] | undefined) =>
    row ? { at: row.at.toISOString(), where: row.where_from } : null;
  return [touch(rows[0]), touch(rows[1])];
}

async function listsOf({ db }: Use, id: string): Promise<LeadView['lists']> {
  const { rows } = await db.query<{
    name: string;
    columns: { key: string; label: string }[];
    fields: Record<string, unknown>;
    state: string;
  }>(
    `select l.name, l.fields as columns, m.fields, m.state from list_member m join nurture_list l on l.id = m.list_id and l.removed_at is null
     where m.lead_id = $1 order by l.name`,
    [id],
  );
  return rows.map((row) => ({
    name: row.name,
    on: row.state === 'active',
    fields: row.columns.flatMap(({ key, label }) =>
      row.fields[key] ? [{ label, value: String(row.fields[key]) }] : [],
    ),
  }));
}

async function dealsOf({ db }: Use, id: string): Promise<LeadView['deals']> {
  const { rows } = await db.query<{
    title: string;
    value: string | null;
    currency: string;
    stage: string;
    moved_at: Date;
    closed_at: Date | null;
  }>(
    `select d.title, d.value, p.currency, s.name as stage, d.moved_at, d.closed_at from deal d join stage s on s.id = d.stage_id join pipeline p on p.id = d.pipeline_id and p.removed_at is null where d.lead_id = $1 order by d.created_at desc`,
    [id],
  );
  return rows.map(({ moved_at, closed_at, ...row }) => ({
    ...row,
    movedAt: moved_at.toISOString(),
    closed: closed_at !== null,
  }));
}

async function tasksOf({ db }: Use, id: string): Promise<LeadView['tasks']> {
  const { rows } = await db.query<{ id: string; title: string; due_at: Date; done_at: Date | null; colleague: string }>(
    `select t.id, t.title, t.due_at, t.done_at, coalesce(p.name, '') as colleague from task t left join person p on p.id = t.colleague_id
     where t.lead_id = $1 order by t.done_at nulls first, t.due_at limit 100`,
    [id],
  );
  return rows.map(({ due_at, done_at, ...row }) => ({ ...row, dueAt: due_at.toISOString(), done: done_at !== null }));
}

/** Everything that ever happened with one lead. */
export async function getLead(use: Use, id: string): Promise<LeadView> {
  if (!z.uuid().safeParse(id).success) throw notHere('lead');
  const { db } = use;
  const {
    rows: [lead],
  } = await db.query<LeadRow>(
    `select l.first_name, l.last_name, l.email, l.phone, l.created_at, l.answers, l.own, p.name as owner from lead l left join person p on p.id = l.owner_id
     where l.id = $1 and l.business_id = $2`,
    [id, use.actor.businessId],
  );
  if (!lead) throw notHere('lead');
  const [labels, [firstTouch, lastTouch], consent, events, lists, deals, tasks, tags, merges] = await Promise.all([
    labelsOf(use, id),
    touchesOf(use, id),
    consentsOf(use, id),
    storyOf(use, id),
    listsOf(use, id),
    dealsOf(use, id),
    tasksOf(use, id),
    db.query<{ name: string }>(
      'select g.name from lead_tag t join tag g on g.id = t.tag_id and g.removed_at is null where t.lead_id = $1 order by g.name',
      [id],
    ),
    db.query<{ id: string; gone: Named }>(
      'select id, gone from lead_merge where kept_id = $1 and undone_at is null order by at desc',
      [id],
    ),
  ]);
  return {
    id,
    name: leadName(lead),
    first_name: lead.first_name,
    last_name: lead.last_name,
    email: lead.email,
    phone: lead.phone,
    createdAt: lead.created_at.toISOString(),
    answers: filled(lead.answers, (key) => labels.get(key) ?? labelFromKey(key)),
    own: filled(lead.own, labelFromKey),
    firstTouch,
    lastTouch,
    consent,
    events,
    owner: lead.owner,
    tags: tags.rows.map(({ name }) => name),
    merges: merges.rows.map((row) => ({ id: row.id, name: leadName(row.gone) })),
    lists,
    deals,
    tasks,
  };
}
