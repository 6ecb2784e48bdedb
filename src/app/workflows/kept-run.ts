import type { QueryResultRow } from 'pg';
import type { Compared } from '../../core/condition/evaluate.ts';
import type { Field } from '../../core/fields/field.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import type { FieldSet, Plan } from '../../core/workflow/plan.ts';
import type { Attempt, DeliveryState, StepState } from '../../db/entities/run.ts';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';
import type { RunRecord } from './list-runs.ts';

/** What is kept of one run, as the tables have it. */
export interface KeptRun {
  row: RunOfVersion;
  results: ResultRow[];
  deliveries: DeliveryRow[];
  began: BeganRow[];
  asked: AskedRow[];
  visits: VisitRow[];
  filledIn: FilledRow[];
}
interface RunOfVersion extends RunRecord {
  number: number;
  definition: Definition;
  fields: Field[];
  where_from: WhereFrom;
  card: { fields: Record<string, string> };
  lead_id: string;
  arrival_id: string;
  moment_id: string | null;
  due_at: Date | null;
  finished_at: Date | null;
  open_needs: number;
}
interface ResultRow {
  step_id: string;
  state: StepState;
  plan: Plan | null;
  instead: Plan | null;
  attempts: Attempt[];
  results: FieldSet[] | null;
  started_at: Date;
  finished_at: Date | null;
  next_try_at: Date | null;
}
export interface DeliveryRow {
  id: string;
  step_id: string;
  item: number;
  state: DeliveryState;
  detail: string;
  message: Extract<Plan, { does: 'send' }>['message'];
  remote_id: string | null;
  accepted_at: Date | null;
  reported_at: Date | null;
  read_at: Date | null;
}
interface BeganRow {
  moment_id: string;
  began_at: Date | null;
  skipped: string | null;
  case_id: string | null;
  compared: Compared[] | null;
}
export interface AskedRow {
  step_id: string;
  state: string;
  times: number;
  answer: string | null;
  until: Date;
  replies: string[];
}
interface VisitRow {
  step_id: string;
  kind: string;
  url: string;
  times: number;
}
interface FilledRow {
  delivery_id: string;
  text: string;
  at: Date;
}

/** Throws `not-here` when the workflow has no such run. */
export async function keptRun(use: Use, workflowId: string, runId: string): Promise<KeptRun> {
  const one = async <Row extends QueryResultRow>(sql: string) => (await use.db.query<Row>(sql, [runId])).rows;
  const { rows } = await use.db.query<RunOfVersion & QueryResultRow>(
    `select r.*, l.first_name, l.last_name, l.email, l.phone, s.name as source_name, s.card, v.number, v.definition, a.fields, a.where_from,
       (select count(*)::int from needs_you n where n.run_id = r.id and n.settled_at is null) as open_needs
     from run r join lead l on l.id = r.lead_id join source s on s.id = r.source_id join workflow_version v on v.id = r.version_id
     join arrival a on a.id = r.arrival_id where r.id = $1 and r.business_id = $2 and r.workflow_id = $3`,
    [runId, use.actor.businessId, workflowId],
  );
  const row = rows[0];
  if (!row) throw notHere('run');
  const [results, deliveries, began, asked, visits, filledIn] = await Promise.all([
    one<ResultRow & QueryResultRow>('select * from step_result where run_id = $1'),
    one<DeliveryRow & QueryResultRow>('select * from delivery where run_id = $1 order by item'),
    one<BeganRow & QueryResultRow>('select * from moment_result where run_id = $1'),
    one<AskedRow & QueryResultRow>(
      `select q.step_id, q.state, q.times, q.answer, q.until,
         coalesce((select jsonb_agg(i.text order by i.received_at) from inbound i where i.question_id = q.id), '[]') as replies
       from asked_question q where q.run_id = $1`,
    ),
    one<VisitRow & QueryResultRow>(
      `select v.step_id, v.kind, t.url, count(*)::int as times from visit v join tracked_link t on t.token = v.token
       where v.run_id = $1 and not v.machine group by v.step_id, v.kind, t.url order by t.url`,
    ),
    one<FilledRow & QueryResultRow>(
      'select f.delivery_id, i.text, f.at from form_answer f join inbound i on i.id = f.inbound_id where f.run_id = $1',
    ),
  ]);
  return { row, results, deliveries, began, asked, visits, filledIn };
}
