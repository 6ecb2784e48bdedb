import type pg from 'pg';
import type { Field } from '../../core/fields/field.ts';
import type { Identity } from '../../core/people/identity.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import type { Place } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import type { Channel, ConsentState, RunPerson } from '../../core/workflow/run-context.ts';
import type { Attempt, DeliveryState, RunState, StepState } from '../entities/run.ts';
import { Batcher } from './batcher.ts';

/** What intake hands over for one item. Times are ISO 8601 in UTC; `body` is base64. */
export interface AcceptItem {
  arrival_id: string;
  business_id: string;
  source_id: string;
  external_id: string | null;
  received_at: string;
  headers: Record<string, string>;
  body: string;
  fields: Field[];
  where_from: WhereFrom;
  state: 'read' | 'refused' | 'held' | 'aside';
  problem: string | null;
  person: RunPerson;
  identities: Identity[];
  answers: Record<string, string>;
  consent: { state: 'given' | 'refused'; wording: string; how: string; version: string; address: string } | null;
  brings: 'people' | 'news';
  /** An arrival kept before, handled once more: what is stored is put right, not stored twice. */
  again: boolean;
  /** Which workflows run, instead of those that listen to the source; null for those that listen. */
  workflows: { workflow_id: string; version_id: string; same_person: 'update_only' | 'run_again' }[] | null;
  new_lead_id: string;
  touch_id: string;
  run_id: string;
  /** Null for runs that no process has begun: they are due at once, or after `lease_seconds`. */
  lease_by: string | null;
  lease_seconds: number;
  needs_you: { id: string; subject: string; title: string; detail: string } | null;
}

export interface Accepted {
  item: string;
  arrival_id: string;
  repeat: boolean;
  lead_id?: string;
  new_lead?: boolean;
  known?: RunPerson;
  consent?: Partial<Record<Channel, ConsentState>>;
  runs?: { run_id: string; version_id: string; workflow_id: string }[];
}

export interface StepRow {
  run_id: string;
  step_id: string;
  business_id: string;
  place: Place;
  state: StepState;
  plan: Plan;
  attempts: Attempt[];
  started_at: string;
  finished_at: string | null;
  next_try_at: string | null;
}

/** Rows a run wants written together. */
export interface Progress {
  deliveries?: Record<string, unknown>[];
  answers?: {
    id: string;
    state: DeliveryState;
    remote_id: string | null;
    detail: string;
    accepted_at: string | null;
  }[];
  steps?: StepRow[];
  leads?: ({ id: string } & Partial<RunPerson>)[];
  needs?: Record<string, unknown>[];
  runs?: {
    id: string;
    lease_by: string;
    state: RunState;
    outcome: string;
    finished_at: string | null;
    due_at: string | null;
    first_reply_at: string | null;
  }[];
}

/** A run leased to this process, with all that is needed to go on. */
export interface DueRun {
  run: {
    id: string;
    business_id: string;
    version_id: string;
    source_id: string;
    lead_id: string;
    created_at: string;
    first_reply_at: string | null;
    from_step: string | null;
  };
  fields: Field[];
  where_from: WhereFrom;
  known: RunPerson;
  consent: Partial<Record<Channel, ConsentState>>;
  steps: Pick<StepRow, 'step_id' | 'place' | 'state' | 'plan' | 'attempts' | 'started_at' | 'next_try_at'>[];
  deliveries: {
    id: string;
    step_id: string;
    state: DeliveryState;
    message: Record<string, unknown>;
    connection_id: string;
    created_at: string;
  }[];
}

const codeOf = (error: unknown) => (error as { code?: string }).code ?? '';
/** PostgreSQL's codes for "somebody else was quicker, try again": deadlock_detected, serialization_failure. */
const collided = (error: unknown, tries: number) =>
  ['40P01', '40001'].includes(codeOf(error)) && tries < 3 ? 5 : null;
/**
 * A statement the server refused carries a five-character SQLSTATE; class 57 (it is shutting down) and 08 (connection) and
 * errors without one mean that it could not be asked.
 */
const unreachable = (error: unknown) => !/^[0-9A-Z]{5}$/.test(codeOf(error)) || /^(57|08|53)/.test(codeOf(error));
/** What has been sent must be noted: a restarting database is waited for, about eight seconds, well inside a lease. */
const patient = (error: unknown, tries: number) =>
  collided(error, tries) ?? (unreachable(error) && tries < 8 ? Math.min(2000, 100 * 2 ** tries) : null);
/** The function reads its rows in the order given and so locks them in it: the same order everywhere. */
const byId = (a: { id?: unknown }, b: { id?: unknown }) => (String(a.id) < String(b.id) ? -1 : 1);
const KEYS = ['deliveries', 'answers', 'steps', 'leads', 'needs', 'runs'] as const;

/** The statements of the hot path: accept, progress, take what is due. */
export class HotStore {
  private readonly accepting: Batcher<AcceptItem, Accepted>;
  private readonly writing: Batcher<Progress, undefined>;

  constructor(readonly pool: pg.Pool) {
    this.accepting = new Batcher((items) => this.acceptAll(items), {
      parallel: 2,
      most: 100,
      mostWeight: 4_000_000,
      weight: (item) => item.body.length,
      again: collided,
    });
    this.writing = new Batcher((items) => this.writeAll(items), { parallel: 2, most: 200, again: patient });
  }

  /** Stores an arrival, finds or makes its lead and starts its runs. Resolves after the commit. */
  accept(item: AcceptItem): Promise<Accepted> {
    return this.accepting.add(item);
  }

  /**
   * Stores several arrivals in one transaction, together with one more statement: a cursor, a count. That statement must change
   * exactly one row; when it does not, somebody else has gone on meanwhile, nothing is stored, and null is given.
   */
  async acceptTogether(
    items: AcceptItem[],
    alongside?: { text: string; values: unknown[] },
  ): Promise<Accepted[] | null> {
    for (let tries = 0; ; tries++) {
      const client = await this.pool.connect();
      try {
        await client.query('begin');
        if (alongside && (await client.query(alongside.text, alongside.values)).rowCount !== 1) {
          await client.query('rollback');
          return null;
        }
        const { rows } = await client.query<{ r: Accepted }>('select accept_arrivals($1::jsonb) as r', [
          JSON.stringify(items),
        ]);
        await client.query('commit');
        const byItem = new Map(rows.map(({ r }) => [r.item, r]));
        return items.map((item) => byItem.get(item.arrival_id)!);
      } catch (error) {
        await client.query('rollback').catch(() => {});
        const pause = collided(error, tries);
        if (pause === null) throw error;
        await new Promise((resolve) => setTimeout(resolve, pause));
      } finally {
        client.release();
      }
    }
  }

  /** Writes what a run has done. Resolves after the commit. */
  write(progress: Progress): Promise<undefined> {
    return this.writing.add(progress);
  }

  private async acceptAll(items: AcceptItem[]): Promise<Accepted[]> {
    const { rows } = await this.pool.query<{ r: Accepted }>({
      name: 'accept',
      text: 'select accept_arrivals($1::jsonb) as r',
      values: [JSON.stringify(items)],
    });
    const byItem = new Map(rows.map(({ r }) => [r.item, r]));
    return items.map((item) => byItem.get(item.arrival_id)!);
  }

  private async writeAll(items: Progress[]): Promise<undefined[]> {
    const batch = Object.fromEntries(
      KEYS.map((key) => [key, items.flatMap<object>((item) => item[key] ?? []).sort(byId)]),
    );
    await this.pool.query({
      name: 'progress',
      text: 'select write_progress($1::jsonb)',
      values: [JSON.stringify(batch)],
    });
    return items.map(() => undefined);
  }

  async takeDue(holder: string, seconds: number, most: number): Promise<DueRun[]> {
    const { rows } = await this.pool.query<{ r: DueRun }>({
      name: 'due',
      text: 'select take_due_runs($1, $2, $3) as r',
      values: [holder, seconds, most],
    });
    return rows.map(({ r }) => r);
  }

  /** Keeps leases; gives the runs still held. One that is missing belongs to somebody else by now. */
  async renew(holder: string, seconds: number, runIds: string[]): Promise<Set<string>> {
    const { rows } = await this.pool.query<{ id: string }>({
      name: 'renew',
      // Rows are locked in the order of their ids, as write_progress does: two of them cannot wait for each other.
      text: `with mine as (select id from run where id = any($3::uuid[]) and lease_by = $1 order by id for no key update)
        update run set due_at = now() + $2::int * interval '1 s' from mine where run.id = mine.id returning run.id`,
      values: [holder, seconds, runIds],
    });
    return new Set(rows.map(({ id }) => id));
  }
}
