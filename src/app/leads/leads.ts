import type { QueryResultRow } from 'pg';
import { z } from 'zod';
import type { ConsentState } from '../../core/consent/precedence.ts';
import { labelFromKey } from '../../core/fields/field.ts';
import { LEAD_FIELD_LABELS } from '../../core/source/lead-card.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { clockTime, whenWords } from '../../core/words/instant.ts';
import { CHANNEL_WORDS, type Channel } from '../../core/workflow/channel.ts';
import { consentOrder } from '../../db/hot/consent-order.ts';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';
import { changesOf } from './lead-changes.ts';
import { leadName, type Named } from './lead-name.ts';

export type LeadEvent =
  | {
      kind: 'arrival';
      at: string;
      sourceName: string;
      where: WhereFrom;
      repeats: number;
      consent: string | null;
      asks: boolean;
    }
  | {
      kind: 'out';
      at: string;
      channel: Channel;
      audience: 'lead' | 'team';
      subject: string;
      text: string;
      state: string;
      detail: string;
      replyMs: number | null;
      /** Null for one of many. */
      workflowId: string | null;
      runId: string | null;
    }
  | { kind: 'in'; at: string; channel: Channel; text: string; stopped: boolean; problem: string }
  | { kind: 'visit'; at: string; title: string; url: string }
  | {
      kind: 'record';
      what: 'note' | 'tag' | 'list' | 'task' | 'hold' | 'deal' | 'row' | 'consent' | 'change';
      at: string;
      title: string;
      text: string;
      /** A change that can be put back, by its id. */
      change?: string;
    }
  | { kind: 'run'; at: string; workflowName: string; outcome: string; workflowId: string; runId: string };

export interface LeadView {
  id: string;
  name: string;
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  answers: { label: string; value: string }[];
  /** Fields the business has given them. */
  own: { label: string; value: string }[];
  createdAt: string;
  firstTouch: { at: string; where: WhereFrom } | null;
  lastTouch: { at: string; where: WhereFrom } | null;
  consent: Record<
    Channel,
    {
      state: 'unknown' | ConsentState;
      at: string | null;
      wording: string;
      how: string;
      version: string;
      address: string;
    }
  >;
  events: LeadEvent[];
  owner: string | null;
  tags: string[];
  lists: { name: string; on: boolean; fields: { label: string; value: string }[] }[];
  /** Other leads that were made one with this, and can be parted again. */
  merges: { id: string; name: string }[];
  deals: { title: string; value: string | null; stage: string; movedAt: string; closed: boolean }[];
  tasks: { id: string; title: string; dueAt: string; colleague: string; done: boolean }[];
}

/** A message of a moment that begins later than this is no answer any more: how long after the arrival it went says nothing. */
const ANSWERS_MS = 5 * 60_000;

/** Everything that ever happened with one lead. */
export async function getLead(use: Use, id: string): Promise<LeadView> {
  if (!z.uuid().safeParse(id).success) throw notHere('lead');
  const { db } = use;
  const {
    rows: [lead],
  } = await db.query<Named & QueryResultRow>('select * from lead where id = $1 and business_id = $2', [
    id,
    use.actor.businessId,
  ]);
  if (!lead) throw notHere('lead');
  const [
    arrivals,
    deliveries,
    inbound,
    consents,
    touches,
    runs,
    notes,
    tags,
    tasks,
    holds,
    owner,
    deals,
    visits,
    lists,
    merges,
    moves,
    rows,
    given,
    changes,
  ] = await Promise.all([
    db.query(
      `select a.received_at, a.where_from, a.repeats, a.fields, s.name, s.kind, c.wording, c.state as consent_state from arrival a join source s on s.id = a.source_id left join lateral (select wording, state from consent where arrival_id = a.id limit 1) c on true where a.lead_id = $1 and s.kind <> 'list' order by a.received_at desc limit 100`,
      [id],
    ),
    db.query(
      "select d.*, r.created_at as run_at, r.workflow_id, r.first_reply_at from delivery d left join run r on r.id = d.run_id where d.lead_id = $1 and d.state <> 'dropped' order by d.created_at desc limit 200",
      [id],
    ),
    db.query(
      "select i.received_at, i.text, i.channel, i.problem, exists (select 1 from consent c where c.lead_id = i.lead_id and c.at = i.received_at and c.state = 'withdrawn') as stopped from inbound i where i.lead_id = $1 order by i.received_at desc limit 200",
      [id],
    ),
    db.query(
      `select distinct on (c.channel) c.channel, c.state, c.wording, c.how, c.version, c.address, c.at from consent c where c.lead_id = $1 and c.purpose is distinct from 'marketing' order by c.channel, ${consentOrder('c')}`,
      [id],
    ),
    db.query<{ at: Date; where_from: WhereFrom }>(
      '(select at, where_from from touch where lead_id = $1 order by at limit 1) union all (select at, where_from from touch where lead_id = $1 order by at desc limit 1)',
      [id],
    ),
    db.query(
      `select r.id, r.created_at, r.outcome, r.workflow_id, w.name from run r join workflow w on w.id = r.workflow_id where r.lead_id = $1 and r.state in ('stopped', 'known') order by r.created_at desc limit 50`,
      [id],
    ),
    db.query('select text, at from lead_note where lead_id = $1 order by at desc limit 200', [id]),
    db.query('select g.name, t.at from lead_tag t join tag g on g.id = t.tag_id where t.lead_id = $1 order by g.name', [
      id,
    ]),
    db.query(
      `select t.id, t.title, t.due_at, t.created_at, t.done_at, coalesce(p.name, '') as colleague from task t left join person p on p.id = t.colleague_id
       where t.lead_id = $1 order by t.done_at nulls first, t.due_at limit 100`,
      [id],
    ),
    db.query(
      `select e.title, e.starts_at, e.ends_at, e.created_at, p.name as colleague from calendar_entry e join person p on p.id = e.colleague_id
       where e.lead_id = $1 order by e.created_at desc limit 100`,
      [id],
    ),
    db.query('select name from person where id = $1', [lead.owner_id]),
    db.query(
      `select d.title, d.value, s.name as stage, d.moved_at, d.closed_at from deal d join stage s on s.id = d.stage_id where d.lead_id = $1 order by d.created_at desc`,
      [id],
    ),
    // Each link once, when it was first followed.
    db.query(
      `select distinct on (v.token) v.kind, v.at, t.url, d.message ->> 'subject' as subject from visit v join tracked_link t on t.token = v.token
         left join delivery d on d.id = v.delivery_id where v.lead_id = $1 and not v.machine order by v.token, v.at limit 200`,
      [id],
    ),
    db.query(
      'select l.name, l.fields as columns, m.fields, m.state, m.how, m.joined_at, m.changed_at from list_member m join nurture_list l on l.id = m.list_id and l.removed_at is null where m.lead_id = $1 order by l.name',
      [id],
    ),
    db.query('select id, gone from lead_merge where kept_id = $1 and undone_at is null order by at desc', [id]),
    db.query(
      `select v.at, s.name as stage, d.title, coalesce(w.name, p.name, '') as by, w.id is not null as by_workflow from deal_move v join deal d on d.id = v.deal_id
         join stage s on s.id = v.stage_id left join run r on r.id = v.run_id left join workflow w on w.id = r.workflow_id left join person p on p.id = v.person_id
       where v.lead_id = $1 order by v.at desc limit 100`,
      [id],
    ),
    db.query(
      `select c.at, s.name as sheet, t.name as tab, c.before = '{}' as added from sheet_row_change c join sheet_tab t on t.id = c.tab_id join sheet s on s.id = t.sheet_id
       where c.lead_id = $1 order by c.id desc limit 100`,
      [id],
    ),
    // Consent that came with an arrival stands there already.
    db.query(
      'select channel, state, how, wording, at from consent where lead_id = $1 and arrival_id is null order by at desc limit 100',
      [id],
    ),
    changesOf(use, id),
  ]);
  const labels = new Map<string, string>(
    arrivals.rows.flatMap((row) => row.fields.map((field: { key: string; label: string }) => [field.key, field.label])),
  );
  const consent = (channel: Channel): LeadView['consent']['text'] => {
    const row = consents.rows.find((one) => one.channel === channel);
    return row
      ? {
          state: row.state,
          at: row.at.toISOString(),
          wording: row.wording,
          how: row.how,
          version: row.version,
          address: row.address,
        }
      : { state: 'unknown', at: null, wording: '', how: '', version: '', address: '' };
  };
  const touch = (row: { at: Date; where_from: WhereFrom } | undefined) =>
    row ? { at: row.at.toISOString(), where: row.where_from } : null;
  const events: LeadEvent[] = [
    ...arrivals.rows.map(
      (row): LeadEvent => ({
        kind: 'arrival',
        at: row.received_at.toISOString(),
        sourceName: row.name,
        where: row.where_from,
        repeats: row.repeats,
        consent: row.consent_state === 'given' ? row.wording || 'as it stood there' : null,
        // In chat it is asked by the forms, and stands on a line of its own.
        asks: row.kind !== 'chat-message',
      }),
    ),
    ...deliveries.rows.map(
      (row): LeadEvent => ({
        kind: 'out',
        at: (row.accepted_at ?? row.created_at).toISOString(),
        channel: row.channel,
        audience: row.audience,
        subject: row.message.subject ?? '',
        text: row.message.text ?? '',
        state: row.state,
        detail: row.detail,
        replyMs:
          row.accepted_at && row.run_at && row.audience === 'lead' && row.created_at - row.run_at < ANSWERS_MS
            ? row.accepted_at.getTime() - row.run_at.getTime()
            : null,
        workflowId: row.workflow_id,
        runId: row.run_id,
      }),
    ),
    ...inbound.rows.map(
      (row): LeadEvent => ({
        kind: 'in',
        at: row.received_at.toISOString(),
        channel: row.channel,
        text: row.text,
        stopped: row.stopped,
        problem: row.problem ?? '',
      }),
    ),
    ...visits.rows.map(
      (row): LeadEvent => ({
        kind: 'visit',
        at: row.at.toISOString(),
        title: row.kind === 'link' ? 'Followed a link' : 'Opened an email',
        url: row.url ?? row.subject ?? '',
      }),
    ),
    ...lists.rows.flatMap((row) => [
      onRecord('list', row.joined_at, `Joined the list ${row.name}`, row.how),
      ...(row.state === 'active' || row.state === 'waiting'
        ? []
        : [onRecord('list', row.changed_at, `Left the list ${row.name}`, '')]),
    ]),
    ...runs.rows.map(
      (row): LeadEvent => ({
        kind: 'run',
        at: row.created_at.toISOString(),
        workflowName: row.name,
        outcome: row.outcome,
        workflowId: row.workflow_id,
        runId: row.id,
      }),
    ),
    ...notes.rows.map((row) => onRecord('note', row.at, 'Note', row.text)),
    ...tags.rows.map((row) => onRecord('tag', row.at, `Tag: ${row.name}`, '')),
    ...moves.rows.map((row) =>
      onRecord(
        'deal',
        row.at,
        `Deal: ${row.stage}`,
        `${row.title}${row.by ? `, by ${row.by_workflow ? 'the workflow ' : ''}${row.by}` : ''}`,
      ),
    ),
    ...rows.rows.map((row) =>
      onRecord('row', row.at, `${row.added ? 'Row in' : 'Row changed in'} the sheet ${row.sheet}`, row.tab),
    ),
    ...given.rows.map((row) =>
      onRecord(
        'consent',
        row.at,
        row.state === 'given'
          ? `Agreed to ${CHANNEL_WORDS[row.channel as Channel].many}`
          : `Wants no more ${CHANNEL_WORDS[row.channel as Channel].many}`,
        [row.how, row.wording].filter(Boolean).join(': '),
      ),
    ),
    ...changes.map(
      (one): LeadEvent => ({
        ...onRecord(
          'change',
          one.at,
          `${LEAD_FIELD_LABELS[one.field]}: ${one.was === '' ? 'nothing' : `“${one.was}”`} became ${one.became === '' ? 'empty' : `“${one.became}”`}`,
          `By ${one.by}`,
        ),
        change: one.id,
      }),
    ),
    ...tasks.rows.map((row) =>
      onRecord('task', row.created_at, `Task for ${row.colleague || 'whoever is free'}`, row.title),
    ),
    ...holds.rows.map((row) => {
      const local = { locale: use.actor.locale, timeZone: use.actor.timeZone };
      const when = whenWords(row.starts_at.toISOString(), row.created_at.getTime(), local);
      return onRecord(
        'hold',
        row.created_at,
        `Time held for ${row.colleague}`,
        `${row.title}, ${when} to ${clockTime(row.ends_at.toISOString(), local)}`,
      );
    }),
  ];
  return {
    id,
    name: leadName(lead),
    first_name: lead.first_name,
    last_name: lead.last_name,
    email: lead.email,
    phone: lead.phone,
    createdAt: lead.created_at.toISOString(),
    answers: Object.entries(lead.answers as Record<string, string>)
      .filter(([, value]) => value !== '')
      .map(([key, value]) => ({ label: labels.get(key) ?? labelFromKey(key), value })),
    own: Object.entries(lead.own as Record<string, string>)
      .filter(([, value]) => value !== '')
      .map(([key, value]) => ({ label: labelFromKey(key), value })),
    firstTouch: touch(touches.rows[0]),
    lastTouch: touch(touches.rows[1]),
    consent: { text: consent('text'), email: consent('email'), chat: consent('chat') },
    events: events.sort((a, b) => b.at.localeCompare(a.at)),
    owner: owner.rows[0]?.name ?? null,
    tags: tags.rows.map((row) => row.name),
    merges: merges.rows.map((row) => ({ id: row.id, name: leadName(row.gone) })),
    lists: lists.rows.map((row) => ({
      name: row.name,
      on: row.state === 'active',
      fields: (row.columns as { key: string; label: string }[]).flatMap(({ key, label }) =>
        row.fields[key] ? [{ label, value: String(row.fields[key]) }] : [],
      ),
    })),
    deals: deals.rows.map((row) => ({
      title: row.title,
      value: row.value,
      stage: row.stage,
      movedAt: row.moved_at.toISOString(),
      closed: row.closed_at !== null,
    })),
    tasks: tasks.rows.map((row) => ({
      id: row.id,
      title: row.title,
      dueAt: row.due_at.toISOString(),
      colleague: row.colleague,
      done: row.done_at !== null,
    })),
  };
}

const onRecord = (
  what: Extract<LeadEvent, { kind: 'record' }>['what'],
  at: Date,
  title: string,
  text: string,
): Extract<LeadEvent, { kind: 'record' }> => ({
  kind: 'record',
  what,
  at: at.toISOString(),
  title,
  text,
});
