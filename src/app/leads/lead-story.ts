/* More than 300 lines: one small teller for each kind of thing that happens with a lead, and nothing else. */
import type { QueryResultRow } from 'pg';
import type { ConsentState } from '../../core/consent/precedence.ts';
import { LEAD_FIELD_LABELS } from '../../core/source/lead-card.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { clockTime, whenWords } from '../../core/words/instant.ts';
import { moneyWords } from '../../core/words/money.ts';
import { CHANNEL_WORDS, type Channel } from '../../core/workflow/channel.ts';
import type { Use } from '../use.ts';
import { changesOf } from './lead-changes.ts';

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
      what: 'note' | 'outcome' | 'tag' | 'list' | 'task' | 'hold' | 'deal' | 'row' | 'consent' | 'change';
      at: string;
      title: string;
      text: string;
      /** A change that can be put back, by its id. */
      change?: string;
    }
  | { kind: 'run'; at: string; workflowName: string; outcome: string; workflowId: string; runId: string };

/** Tells one kind of what happened with a lead; the order does not matter. */
type Teller = (use: Use, leadId: string) => Promise<LeadEvent[]>;

/** A message of a moment that begins later than this is no answer any more: how long after the arrival it went says nothing. */
const ANSWERS_MS = 5 * 60_000;

const rowsOf = async <Row extends QueryResultRow>({ db }: Use, sql: string, leadId: string) =>
  (await db.query<Row>(sql, [leadId])).rows;

const onRecord = (
  what: Extract<LeadEvent, { kind: 'record' }>['what'],
  at: Date,
  title: string,
  text: string,
): Extract<LeadEvent, { kind: 'record' }> => ({ kind: 'record', what, at: at.toISOString(), title, text });

const arrivals: Teller = async (use, leadId) => {
  const rows = await rowsOf<{
    received_at: Date;
    where_from: WhereFrom;
    repeats: number;
    name: string;
    kind: string;
    wording: string | null;
    consent_state: ConsentState | null;
  }>(
    use,
    `select a.received_at, a.where_from, a.repeats, s.name, s.kind, c.wording, c.state as consent_state from arrival a join source s on s.id = a.source_id
       left join lateral (select wording, state from consent where lead_id = a.lead_id and arrival_id = a.id limit 1) c on true
     where a.lead_id = $1 and s.kind <> 'list' order by a.received_at desc limit 100`,
    leadId,
  );
  return rows.map((row) => ({
    kind: 'arrival',
    at: row.received_at.toISOString(),
    sourceName: row.name,
    where: row.where_from,
    repeats: row.repeats,
    consent: row.consent_state === 'given' ? row.wording || 'as it stood there' : null,
    // In chat it is asked by the forms, and stands on a line of its own.
    asks: row.kind !== 'chat-message',
  }));
};

const sent: Teller = async (use, leadId) => {
  const rows = await rowsOf<{
    created_at: Date;
    accepted_at: Date | null;
    run_at: Date | null;
    channel: Channel;
    audience: 'lead' | 'team';
    message: { subject?: string; text?: string };
    state: string;
    detail: string;
    workflow_id: string | null;
    run_id: string | null;
  }>(
    use,
    `select d.created_at, d.accepted_at, r.created_at as run_at, d.channel, d.audience, d.message, d.state, d.detail, r.workflow_id, d.run_id
     from delivery d left join run r on r.id = d.run_id where d.lead_id = $1 and d.state <> 'dropped' order by d.created_at desc limit 200`,
    leadId,
  );
  const replyMs = ({ accepted_at, run_at, created_at, audience }: (typeof rows)[number]) =>
    accepted_at && run_at && audience === 'lead' && created_at.getTime() - run_at.getTime() < ANSWERS_MS
      ? accepted_at.getTime() - run_at.getTime()
      : null;
  return rows.map((row) => ({
    kind: 'out',
    at: (row.accepted_at ?? row.created_at).toISOString(),
    channel: row.channel,
    audience: row.audience,
    subject: row.message.subject ?? '',
    text: row.message.text ?? '',
    state: row.state,
    detail: row.detail,
    replyMs: replyMs(row),
    workflowId: row.workflow_id,
    runId: row.run_id,
  }));
};

const written: Teller = async (use, leadId) => {
  const rows = await rowsOf<{
    received_at: Date;
    text: string;
    channel: Channel;
    problem: string | null;
    stopped: boolean;
  }>(
    use,
    `select i.received_at, i.text, i.channel, i.problem,
       exists (select 1 from consent c where c.lead_id = i.lead_id and c.at = i.received_at and c.state = 'withdrawn') as stopped
     from inbound i where i.lead_id = $1 order by i.received_at desc limit 200`,
    leadId,
  );
  return rows.map((row) => ({
    kind: 'in',
    at: row.received_at.toISOString(),
    channel: row.channel,
    text: row.text,
    stopped: row.stopped,
    problem: row.problem ?? '',
  }));
};

/** Each link once, when it was first followed. */
const visits: Teller = async (use, leadId) => {
  const rows = await rowsOf<{ kind: string; at: Date; url: string | null; subject: string | null }>(
    use,
    `select distinct on (v.token) v.kind, v.at, t.url, d.message ->> 'subject' as subject from visit v join tracked_link t on t.token = v.token
       left join delivery d on d.id = v.delivery_id where v.lead_id = $1 and not v.machine order by v.token, v.at limit 200`,
    leadId,
  );
  return rows.map((row) => ({
    kind: 'visit',
    at: row.at.toISOString(),
    title: row.kind === 'link' ? 'Clicked a link' : 'Opened an email',
    url: row.url ?? row.subject ?? '',
  }));
};

/** What did nothing else to be seen by: runs that stopped, and those that knew the lead already. */
const runs: Teller = async (use, leadId) => {
  const rows = await rowsOf<{ id: string; created_at: Date; outcome: string; workflow_id: string; name: string }>(
    use,
    `select r.id, r.created_at, r.outcome, r.workflow_id, w.name from run r join workflow w on w.id = r.workflow_id
     where r.lead_id = $1 and r.state in ('stopped', 'known') order by r.created_at desc limit 50`,
    leadId,
  );
  return rows.map((row) => ({
    kind: 'run',
    at: row.created_at.toISOString(),
    workflowName: row.name,
    outcome: row.outcome,
    workflowId: row.workflow_id,
    runId: row.id,
  }));
};

const lists: Teller = async (use, leadId) => {
  const rows = await rowsOf<{ name: string; state: string; how: string; joined_at: Date; changed_at: Date }>(
    use,
    `select l.name, m.state, m.how, m.joined_at, m.changed_at from list_member m join nurture_list l on l.id = m.list_id and l.removed_at is null
     where m.lead_id = $1`,
    leadId,
  );
  return rows.flatMap((row) => [
    onRecord('list', row.joined_at, `Joined the list ${row.name}`, row.how),
    ...(row.state === 'active' || row.state === 'waiting'
      ? []
      : [onRecord('list', row.changed_at, `Unsubscribed from ${row.name}`, '')]),
  ]);
};

const notes: Teller = async (use, leadId) =>
  (
    await rowsOf<{ text: string; at: Date }>(
      use,
      'select text, at from lead_note where lead_id = $1 order by at desc limit 200',
      leadId,
    )
  ).map((row) => onRecord('note', row.at, 'Note', row.text));

const outcomes: Teller = async (use, leadId) => {
  const rows = await rowsOf<{ name: string; at: Date; amount: string | null; currency: string; by: string }>(
    use,
    `select k.name, o.at, o.amount, o.currency, coalesce(w.name, p.name, '') as by from noted_outcome o join outcome_kind k on k.id = o.kind_id
       left join run r on r.id = o.run_id left join workflow w on w.id = r.workflow_id left join person p on p.id = o.person_id
     where o.lead_id = $1 order by o.at desc limit 100`,
    leadId,
  );
  return rows.map(({ name, at, amount, currency, by }) =>
    onRecord(
      'outcome',
      at,
      name,
      [moneyWords(amount, currency, use.actor.locale), by && `by ${by}`].filter(Boolean).join(', '),
    ),
  );
};

const tags: Teller = async (use, leadId) =>
  (
    await rowsOf<{ name: string; at: Date }>(
      use,
      'select g.name, t.at from lead_tag t join tag g on g.id = t.tag_id and g.removed_at is null where t.lead_id = $1',
      leadId,
    )
  ).map((row) => onRecord('tag', row.at, `Tag: ${row.name}`, ''));

const deals: Teller = async (use, leadId) => {
  const rows = await rowsOf<{ at: Date; stage: string; title: string; by: string; by_workflow: boolean }>(
    use,
    `select v.at, s.name as stage, d.title, coalesce(w.name, p.name, '') as by, w.id is not null as by_workflow from deal_move v join deal d on d.id = v.deal_id
       join stage s on s.id = v.stage_id left join run r on r.id = v.run_id left join workflow w on w.id = r.workflow_id left join person p on p.id = v.person_id
     where v.lead_id = $1 order by v.at desc limit 100`,
    leadId,
  );
  return rows.map((row) =>
    onRecord(
      'deal',
      row.at,
      `Deal: ${row.stage}`,
      `${row.title}${row.by ? `, by ${row.by_workflow ? 'the workflow ' : ''}${row.by}` : ''}`,
    ),
  );
};

const sheetRows: Teller = async (use, leadId) => {
  const rows = await rowsOf<{ at: Date; sheet: string; tab: string; added: boolean }>(
    use,
    `select c.at, s.name as sheet, t.name as tab, c.before = '{}' as added from sheet_row_change c join sheet_tab t on t.id = c.tab_id join sheet s on s.id = t.sheet_id and s.removed_at is null
     where c.lead_id = $1 order by c.id desc limit 100`,
    leadId,
  );
  return rows.map((row) =>
    onRecord('row', row.at, `${row.added ? 'Row in' : 'Row changed in'} the sheet ${row.sheet}`, row.tab),
  );
};

/** Consent that came with an arrival stands there already. */
const consents: Teller = async (use, leadId) => {
  const rows = await rowsOf<{ channel: Channel; state: ConsentState; how: string; wording: string; at: Date }>(
    use,
    'select channel, state, how, wording, at from consent where lead_id = $1 and arrival_id is null order by at desc limit 100',
    leadId,
  );
  return rows.map((row) => {
    const messages = CHANNEL_WORDS[row.channel].many;
    const title = row.state === 'given' ? `Agreed to ${messages}` : `Wants no more ${messages}`;
    return onRecord('consent', row.at, title, [row.how, row.wording].filter(Boolean).join(': '));
  });
};

const changes: Teller = async (use, leadId) =>
  (await changesOf(use, leadId)).map((leadChangeView) => {
    const was = leadChangeView.was === '' ? 'nothing' : `“${leadChangeView.was}”`;
    const became = leadChangeView.became === '' ? 'empty' : `“${leadChangeView.became}”`;
    const title = `${LEAD_FIELD_LABELS[leadChangeView.field]}: ${was} became ${became}`;
    return { ...onRecord('change', leadChangeView.at, title, `By ${leadChangeView.by}`), change: leadChangeView.id };
  });

const tasks: Teller = async (use, leadId) =>
  (
    await rowsOf<{ title: string; created_at: Date; colleague: string | null }>(
      use,
      `select t.title, t.created_at, p.name as colleague from task t left join person p on p.id = t.colleague_id
       where t.lead_id = $1 order by t.done_at nulls first, t.due_at limit 100`,
      leadId,
    )
  ).map((row) => onRecord('task', row.created_at, `Task for ${row.colleague || 'whoever is free'}`, row.title));

const holds: Teller = async (use, leadId) => {
  const rows = await rowsOf<{ title: string; starts_at: Date; ends_at: Date; created_at: Date; colleague: string }>(
    use,
    `select e.title, e.starts_at, e.ends_at, e.created_at, p.name as colleague from calendar_entry e join person p on p.id = e.colleague_id
     where e.lead_id = $1 order by e.created_at desc limit 100`,
    leadId,
  );
  const local = { locale: use.actor.locale, timeZone: use.actor.timeZone };
  return rows.map((row) => {
    const when = whenWords(row.starts_at.toISOString(), row.created_at.getTime(), local);
    const until = clockTime(row.ends_at.toISOString(), local);
    return onRecord('hold', row.created_at, `Time held for ${row.colleague}`, `${row.title}, ${when} to ${until}`);
  });
};

const TELLERS: readonly Teller[] = [
  arrivals,
  sent,
  written,
  visits,
  runs,
  lists,
  notes,
  outcomes,
  tags,
  deals,
  sheetRows,
  consents,
  changes,
  tasks,
  holds,
];

/** Everything that happened with a lead of the business, the newest first; of each kind the newest, 50 to 200 of them. */
export async function storyOf(use: Use, leadId: string): Promise<LeadEvent[]> {
  const told = await Promise.all(TELLERS.map((tell) => tell(use, leadId)));
  return told.flat().sort((a, b) => b.at.localeCompare(a.at));
}
