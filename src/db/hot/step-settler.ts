import type pg from 'pg';
import type { FieldSet } from '../../core/workflow/plan.ts';
import { RefusedWork } from '../../core/workflow/refused-work.ts';
import type { Db } from '../db.ts';
import { inTransaction } from '../in-transaction.ts';
import { Batcher } from './batcher.ts';
import type { StepRow } from './rows.ts';
import { codeOf, patient } from './try-again.ts';

/** A step that is done in our own database, and the row that says so. */
export interface Settling {
  row: StepRow;
  /** The process that holds its run. */
  holder: string;
  /** The one thing that many write to, as a sheet's tab: work on it is done in one order everywhere, so that two transactions cannot wait for each other. Empty for none. */
  shared: string;
  /** Done again from the beginning when the transaction did not come to its end. */
  work: (client: Db) => Promise<{ detail: string; results?: FieldSet[] }>;
}
/** Null when the step was settled already, or the run belongs to another process by now; then nothing is done. */
export type SettledStep = { detail: string; results: FieldSet[] } | null;

const inOrder = (a: Settling, b: Settling) => (orderOf(a) < orderOf(b) ? -1 : 1);
const orderOf = ({ shared, row }: Settling) => `${shared} ${row.run_id} ${row.step_id}`;

/**
 * Does steps on record and notes them as done, in one transaction: exactly once. What comes together shares a transaction; when one of them cannot be done, none
 * is, and each is tried by itself.
 */
export class StepSettler {
  private readonly settling: Batcher<Settling, SettledStep>;

  constructor(private readonly pool: pg.Pool) {
    this.settling = new Batcher((all) => this.settleAll(all), {
      parallel: 4,
      most: 50,
      // What cannot be done cannot be done a second time either: the others go on without it at once.
      again: (error, tries) => (error instanceof RefusedWork ? null : patient(error, tries)),
    });
  }

  async settle(step: Settling): Promise<SettledStep> {
    try {
      return await this.settling.add(step);
    } catch (error) {
      // Data exception, integrity violation: what the step refers to is not there (any more).
      if (/^2[23]/.test(codeOf(error))) throw new RefusedWork(`It could not be recorded: ${(error as Error).message}.`);
      throw error;
    }
  }

  private async settleAll(all: Settling[]): Promise<SettledStep[]> {
    const came = new Map<Settling, SettledStep>();
    await inTransaction(this.pool, async (client) => {
      const mine = await claim(client, all);
      for (const step of all.filter((step) => mine.has(keyOf(step.row))).sort(inOrder)) {
        const { detail, results = [] } = await step.work(client);
        came.set(step, { detail, results });
      }
      if (came.size > 0) await note(client, came);
    });
    return all.map((step) => came.get(step) ?? null);
  }
}

const keyOf = ({ run_id, step_id }: Pick<StepRow, 'run_id' | 'step_id'>) => `${run_id} ${step_id}`;

/** Notes the steps as done before they are: of two that would do one, the second waits here and finds it done. Gives those that are ours to do. */
async function claim(client: Db, all: Settling[]): Promise<Set<string>> {
  const rows = all.map(({ row, holder }) => ({ ...row, holder })).sort((a, b) => (keyOf(a) < keyOf(b) ? -1 : 1));
  const { rows: claimed } = await client.query<{ run_id: string; step_id: string }>(
    `insert into step_result (run_id, step_id, business_id, place, state, plan, attempts, started_at, finished_at)
     select x.run_id, x.step_id, x.business_id, x.place, x.state, x.plan, x.attempts, x.started_at, x.finished_at
     from jsonb_to_recordset($1) as x(run_id uuid, step_id text, business_id uuid, place text, state text, plan jsonb, attempts jsonb,
       started_at timestamptz, finished_at timestamptz, holder text)
     where exists (select from run r where r.id = x.run_id and r.lease_by = x.holder)
     on conflict (run_id, step_id) do update set state = excluded.state, plan = excluded.plan, attempts = excluded.attempts,
       finished_at = excluded.finished_at, next_try_at = null
     where step_result.state in ('again', 'held')
     returning run_id, step_id`,
    [JSON.stringify(rows)],
  );
  return new Set(claimed.map(keyOf));
}

/** Writes what came of them. */
async function note(client: Db, came: ReadonlyMap<Settling, SettledStep>): Promise<void> {
  const rows = [...came].map(([{ row }, done]) => ({
    run_id: row.run_id,
    step_id: row.step_id,
    results: done!.results,
    attempts: row.attempts.map((attempt, i) =>
      i === row.attempts.length - 1 ? { ...attempt, detail: done!.detail } : attempt,
    ),
  }));
  await client.query(
    `update step_result s set results = x.results, attempts = x.attempts
     from jsonb_to_recordset($1) as x(run_id uuid, step_id text, results jsonb, attempts jsonb) where s.run_id = x.run_id and s.step_id = x.step_id`,
    [JSON.stringify(rows)],
  );
}
