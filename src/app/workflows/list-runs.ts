import type { RunState } from '../../db/entities/run.ts';
import { searchSql } from '../../engine/choosing/search-sql.ts';
import { leadName } from '../leads/lead-name.ts';
import type { Use } from '../use.ts';
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

export interface RunRecord {
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

export const runRow = (row: RunRecord): RunRow => ({
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
