import type { QueryResultRow } from 'pg';
import { z } from 'zod';
import type { Compared } from '../../core/condition/evaluate.ts';
import { comparedWords, conditionWords } from '../../core/condition/words.ts';
import type { Field } from '../../core/fields/field.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { readReference, referenceLabel } from '../../core/template/field-reference.ts';
import { atNames } from '../../core/workflow/at-names.ts';
import { atWords } from '../../core/workflow/at-words.ts';
import type { Definition, Place } from '../../core/workflow/definition.ts';
import { placedSteps } from '../../core/workflow/definition.ts';
import type { FieldSet, Plan } from '../../core/workflow/plan.ts';
import { deskNames, type Given } from '../../core/workflow/step-kind.ts';
import type { Attempt, DeliveryState, RunState, StepState } from '../../db/entities/run.ts';
import { searchSql } from '../../engine/choosing/search-sql.ts';
import { stepKinds } from '../../steps/registry.ts';
import { leadName } from '../leads/lead-name.ts';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';
import { deskFor } from './sample.ts';
import { findWorkflow } from './workflows.ts';

export interface RunRow {
  id: string;
  name: string;
  sourceName: string;
  state: RunState;
  outcome: string;
  createdAt: string;
  /** Milliseconds from arrival to the first reply; null when there was none. */
  replyMs: number | null;
  again: boolean;
}

export const LOG_FILTERS = ['all', 'needs_you', 'done', 'active', 'stopped', 'known'] as const;
export type LogFilter = (typeof LOG_FILTERS)[number];
export const LOG_PAGE = 40;

/** Runs of one workflow, newest first, a page at a time. `before` is the id of the last one seen. */
export async function listRuns(
  use: Use,
  workflowId: string,
  input: { search: string; filter: LogFilter; before: string | null },
): Promise<{ rows: RunRow[]; more: boolean }> {
  await findWorkflow(use, workflowId, true);
  const values: unknown[] = [use.actor.businessId, workflowId];
  const where = ['r.business_id = $1', 'r.workflow_id = $2'];
  const add = (sql: (n: string) => string, value: unknown) => {
    values.push(value);
    where.push(sql(`$${values.length}`));
  };
  if (input.filter === 'done') where.push(`r.state in ('done', 'handled')`);
  else if (input.filter !== 'all') add((n) => `r.state = ${n}`, input.filter);
  where.push(
    ...searchSql(input.search, use.actor.country, (value) => {
      values.push(value);
      return `$${values.length}`;
    }),
  );
  if (input.before)
    add((n) => `(r.created_at, r.id) < (select created_at, id from run where id = ${n}::uuid)`, input.before);
  const { rows } = await use.db.query<RunRecord>(
    `select r.id, r.state, r.outcome, r.created_at, r.first_reply_at, r.from_step, r.held_at, l.first_name, l.last_name, l.email, l.phone, s.name as source_name
     from run r join lead l on l.id = r.lead_id join source s on s.id = r.source_id where ${where.join(' and ')}
     order by r.created_at desc, r.id desc limit ${LOG_PAGE + 1}`,
    values,
  );
  return { more: rows.length > LOG_PAGE, rows: rows.slice(0, LOG_PAGE).map(runRow) };
}

interface RunRecord {
  id: string;
  state: RunState;
  outcome: string;
  created_at: Date;
  first_reply_at: Date | null;
  from_step: string | null;
  /** A colleague has taken over. */
  held_at: Date | null;
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  source_name: string;
}

const runRow = (row: RunRecord): RunRow => ({
  id: row.id,
  name: leadName(row),
  sourceName: row.source_name,
  state: row.state,
  outcome: row.held_at
    ? `${row.outcome ? `${row.outcome}; held` : 'Held'} while a colleague talks to them`
    : row.outcome,
  createdAt: row.created_at.toISOString(),
  replyMs: row.first_reply_at ? row.first_reply_at.getTime() - row.created_at.getTime() : null,
  again: row.from_step !== null,
});

/** One moment of a run: how it began, or why it was left out. */
export interface MomentView {
  id: string;
  title: string;
  beganAt: string | null;
  /** When it is due, while the run waits for it. */
  dueAt: string | null;
  skipped: string | null;
  caseId: string | null;
  /** The case taken, in words; null for a moment without cases. */
  caseName: string | null;
  compared: { holds: boolean; words: string }[];
}

export interface StepView {
  stepId: string;
  momentId: string;
  caseId: string | null;
  place: Place;
  title: string;
  icon: string;
  state: StepState | 'not_yet';
  plan: Plan | null;
  attempts: Attempt[];
  startedAt: string | null;
  finishedAt: string | null;
  nextTryAt: string | null;
  /** What was sent instead, when it was refused. */
  instead: Plan | null;
  delivery: {
    state: DeliveryState;
    detail: string;
    remoteId: string | null;
    acceptedAt: string | null;
    reportedAt: string | null;
    key: string;
    /** Read in chat; null when that is not known. */
    readAt: string | null;
  } | null;
  /** The question it asked, and what came back. */
  asked: { state: string; times: number; answer: string | null; replies: string[]; until: string } | null;
  /** The chat form it sent, and what was filled in; `text` is null until then. */
  form: { name: string; text: string | null; at: string | null } | null;
  /** What it found out, by the names of the fields. */
  found: { label: string; value: string }[];
  /** Links followed by people, how often, and whether the email was opened. */
  followed: { url: string; times: number }[];
  opened: boolean;
}

export interface RunView extends RunRow {
  workflowId: string;
  leadId: string;
  version: number;
  finishedAt: string | null;
  moments: MomentView[];
  steps: StepView[];
  /** What came in, as the source names it. */
  fields: Field[];
  where: WhereFrom;
  arrivalId: string;
  card: Record<string, string>;
  openNeeds: number;
}

export async function getRun(use: Use, workflowId: string, runId: string): Promise<RunView> {
  if (!z.uuid().safeParse(runId).success) throw notHere('run');
  const { rows } = await use.db.query<RunRecord & QueryResultRow>(
    `select r.*, l.first_name, l.last_name, l.email, l.phone, s.name as source_name, s.card, v.number, v.definition, a.fields, a.where_from,
       (select count(*)::int from needs_you n where n.run_id = r.id and n.settled_at is null) as open_needs
     from run r join lead l on l.id = r.lead_id join source s on s.id = r.source_id join workflow_version v on v.id = r.version_id
     join arrival a on a.id = r.arrival_id where r.id = $1 and r.business_id = $2 and r.workflow_id = $3`,
    [runId, use.actor.businessId, workflowId],
  );
  const row = rows[0];
  if (!row) throw notHere('run');
  const [results, deliveries, began, asked, visits, filledIn] = await Promise.all([
    use.db.query('select * from step_result where run_id = $1', [runId]),
    use.db.query('select * from delivery where run_id = $1 order by item', [runId]),
    use.db.query('select * from moment_result where run_id = $1', [runId]),
    use.db.query(
      `select q.step_id, q.state, q.times, q.answer, q.until,
         coalesce((select jsonb_agg(i.text order by i.received_at) from inbound i where i.question_id = q.id), '[]') as replies
       from asked_question q where q.run_id = $1`,
      [runId],
    ),
    use.db.query(
      `select v.step_id, v.kind, t.url, count(*)::int as times from visit v join tracked_link t on t.token = v.token
       where v.run_id = $1 and not v.machine group by v.step_id, v.kind, t.url order by t.url`,
      [runId],
    ),
    use.db.query<{ delivery_id: string; text: string; at: Date }>(
      'select f.delivery_id, i.text, f.at from form_answer f join inbound i on i.id = f.inbound_id where f.run_id = $1',
      [runId],
    ),
  ]);
  const desk = await deskFor(use);
  const iso = (at: Date | null) => at?.toISOString() ?? null;
  const definition = row.definition as Definition;
  const labels = new Map((row.fields as Field[]).map((field) => [field.key, field.label]));
  const names = deskNames(desk, labels);
  const named = atNames(definition, stepKinds, desk, labels);
  const done = new Set(results.rows.map((one) => one.step_id));
  const moments = definition.moments.map((moment, index): MomentView => {
    const result = began.rows.find((one) => one.moment_id === moment.id);
    const own = placedSteps({ ...definition, moments: [moment] });
    const first = own
      .flatMap(({ step }) => results.rows.filter((one) => one.step_id === step.id))
      .map((one) => one.started_at as Date)
      .sort((a, b) => a.getTime() - b.getTime())[0];
    const taken = own.find(({ step, caseId }) => caseId !== null && done.has(step.id))?.caseId ?? null;
    const caseId = result ? result.case_id : taken;
    const chosen = moment.cases.find((one) => one.id === caseId);
    return {
      id: moment.id,
      title: atWords(moment.at, named),
      beganAt: index === 0 ? iso(row.created_at) : iso(result?.began_at ?? first ?? null),
      dueAt: row.state === 'active' && row.moment_id === moment.id && !result && !first ? iso(row.due_at) : null,
      skipped: result?.skipped ?? null,
      caseId,
      caseName:
        moment.cases.length === 0
          ? null
          : chosen
            ? chosen.name || conditionWords(chosen.when, names)
            : result || first
              ? 'Otherwise'
              : null,
      compared: ((result?.compared ?? []) as Compared[]).map((one) => ({
        holds: one.holds,
        words: comparedWords(one, names),
      })),
    };
  });
  const steps = placedSteps(definition).map(({ step, place, moment, caseId }): StepView => {
    const kind = stepKinds.get(step.kind);
    const settings = kind?.settings.safeParse(step.settings);
    const result = results.rows.find((one) => one.step_id === step.id);
    // What was sent instead comes after what was refused.
    const delivery = deliveries.rows.findLast((one) => one.step_id === step.id && one.item < 10);
    const question = asked.rows.find((one) => one.step_id === step.id);
    const answered = filledIn.rows.find((one) => one.delivery_id === delivery?.id);
    const visited = visits.rows.filter((one) => one.step_id === step.id);
    return {
      stepId: step.id,
      momentId: moment.id,
      caseId,
      place,
      icon: kind?.icon ?? 'sparkles',
      title: kind && settings?.success ? kind.card(settings.data, desk).title : step.kind,
      state: result?.state ?? 'not_yet',
      plan: result?.plan ?? (delivery ? { does: 'send', message: delivery.message } : null),
      attempts: result?.attempts ?? [],
      startedAt: iso(result?.started_at ?? null),
      finishedAt: iso(result?.finished_at ?? null),
      nextTryAt: iso(result?.next_try_at ?? null),
      instead: result?.instead ?? null,
      delivery: delivery
        ? {
            state: delivery.state,
            detail: delivery.detail,
            remoteId: delivery.remote_id,
            acceptedAt: iso(delivery.accepted_at),
            reportedAt: iso(delivery.reported_at),
            key: delivery.id,
            readAt: iso(delivery.read_at),
          }
        : null,
      form: delivery?.message.form
        ? { name: delivery.message.form.name, text: answered?.text ?? null, at: iso(answered?.at ?? null) }
        : null,
      asked: question
        ? {
            state: question.state,
            times: question.times,
            answer: question.answer,
            replies: question.replies,
            until: question.until.toISOString(),
          }
        : null,
      found: ((result?.results ?? []) as FieldSet[]).map(({ reference, value }) => ({
        label: labelOfFound(reference, kind && settings?.success ? (kind.gives?.(settings.data, desk) ?? []) : []),
        value,
      })),
      followed: visited.filter((one) => one.kind === 'link').map(({ url, times }) => ({ url, times })),
      opened: visited.some((one) => one.kind === 'opened'),
    };
  });
  return {
    ...runRow(row),
    workflowId,
    leadId: row.lead_id,
    version: row.number,
    finishedAt: iso(row.finished_at),
    moments,
    steps,
    fields: row.fields,
    where: row.where_from,
    arrivalId: row.arrival_id,
    card: row.card.fields,
    openNeeds: row.open_needs,
  };
}

/** The name of a field a step found, as its kind gives it. */
function labelOfFound(reference: string, gives: readonly Given[]): string {
  const read = readReference(reference);
  return gives.find((one) => one.key === read?.key)?.label ?? (read ? referenceLabel(read) : reference);
}
