import type pg from 'pg';
import { SAMPLE } from '../../core/source/sample.ts';
import type { WaitsFor } from '../../core/workflow/awaited.ts';
import type { FieldSet } from '../../core/workflow/plan.ts';
import type { Ends, Rules } from '../../core/workflow/rules.ts';
import { inTransaction } from '../in-transaction.ts';
import { Batcher } from './batcher.ts';
import { findEvent } from './find-event.ts';
import { lockLead } from './lock-lead.ts';
import type { Accepted, AcceptItem, DueRun, Progress, RunRow, Wishes } from './rows.ts';
import { type SettledStep, type Settling, StepSettler } from './step-settler.ts';
import { collided, patient } from './try-again.ts';

/** The function reads its rows in the order given and so locks them in it: the same order everywhere. */
const byId = (a: { id?: unknown }, b: { id?: unknown }) => (String(a.id) < String(b.id) ? -1 : 1);
const KEYS = ['deliveries', 'links', 'questions', 'answers', 'steps', 'moments', 'leads', 'needs', 'runs'] as const;

/** The statements of the hot path: accept, progress, take what is due. */
export class HotStore {
  private readonly accepting: Batcher<AcceptItem, Accepted>;
  private readonly writing: Batcher<Progress, undefined>;
  private readonly settler: StepSettler;

  constructor(readonly pool: pg.Pool) {
    this.settler = new StepSettler(pool);
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

  /** The last item of a source that was kept to be looked at. */
  async newestSample(sourceId: string): Promise<{ id: string; body: Buffer } | null> {
    const { rows } = await this.pool.query<{ id: string; body: Buffer }>(
      'select id, body from arrival where source_id = $1 and problem = $2 order by received_at desc, id desc limit 1',
      [sourceId, SAMPLE],
    );
    return rows[0] ?? null;
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

  /** Does a step in our own database and notes it as done, in one transaction: exactly once. */
  settle(step: Settling): Promise<SettledStep> {
    return this.settler.settle(step);
  }

  /**
   * Lets a run wait for an event, unless it has happened since `since` (ISO 8601): then that is given and the run stays in
   * hand. One at a time with whatever brings the event, so that exactly one of the two sees the other.
   */
  async beginWait(run: RunRow, leadId: string, waits: WaitsFor, since: string): Promise<Record<string, string> | null> {
    return inTransaction(this.pool, async (client) => {
      await lockLead(client, leadId);
      const happened = await findEvent(client, { leadId, runId: run.id }, waits, since);
      if (!happened)
        await client.query(
          `update run set state = $3, outcome = $4, due_at = $5, lease_by = null, first_reply_at = coalesce(first_reply_at, $6),
             moment_id = $7, moment_at = $8, waits_for = $9, happened = null where id = $1 and lease_by = $2`,
          [
            run.id,
            run.lease_by,
            run.state,
            run.outcome,
            run.due_at,
            run.first_reply_at,
            run.moment_id,
            run.moment_at,
            JSON.stringify(waits),
          ],
        );
      // Written before anything is done about it: taken up again, the run goes the same way.
      else
        await client.query(
          'update run set moment_id = $3, moment_at = $4, waits_for = $5, happened = $6 where id = $1 and lease_by = $2',
          [run.id, run.lease_by, run.moment_id, run.moment_at, JSON.stringify(waits), JSON.stringify(happened)],
        );
      return happened;
    });
  }

  /** What of these has happened to a lead since then, if anything. */
  async endedBy(
    runId: string,
    leadId: string,
    since: string,
    { endsWhen, endsTags }: Pick<Rules, 'endsWhen' | 'endsTags'>,
  ): Promise<Ends | 'tag' | null> {
    const { rows } = await this.pool.query<{ what: Ends | 'tag' }>(
      `select what from (
         -- An answer to what the run itself has asked is not a reply that ends it.
         select 'reply' as what from inbound i where lead_id = $1 and received_at > $2 and i.problem is null
           and not exists (select from asked_question q where q.id = i.question_id and q.run_id = $4)
           and not exists (select from form_answer f where f.inbound_id = i.id and f.run_id = $4)
         union all select 'stop' from consent where lead_id = $1 and state = 'withdrawn' and purpose is null and at > $2
         union all select means from arrival where lead_id = $1 and means is not null and received_at > $2) h
       where what = any($3)
       union all select 'tag' from lead_tag where lead_id = $1 and at > $2 and tag_id::text = any($5) limit 1`,
      [leadId, since, endsWhen, runId, endsTags],
    );
    return rows[0]?.what ?? null;
  }

  /** What a person wants and when they last wrote in chat (milliseconds), as it is now. */
  async wishesOf(leadId: string): Promise<Wishes> {
    const { rows } = await this.pool.query<Wishes>({
      name: 'wishes',
      text: `select automatic_consents_of($1, 'service') as consent, automatic_consents_of($1, 'marketing') as marketing,
        (select extract(epoch from max(i.received_at))::float8 * 1000 from inbound i where i.lead_id = $1 and i.channel = 'chat') as "lastChatAt"`,
      values: [leadId],
    });
    return rows[0]!;
  }

  /** Whether a marketing message may go to this person today: hot/wishes.sql.ts. */
  async takeMarketingSlot(deliveryId: string, leadId: string, businessId: string): Promise<boolean> {
    const { rows } = await this.pool.query<{ free: boolean }>('select take_marketing_slot($1, $2, $3) as free', [
      deliveryId,
      leadId,
      businessId,
    ]);
    return rows[0]!.free;
  }

  /** What the questions and forms of a run were answered, as fields. */
  async answersOf(runId: string): Promise<FieldSet[]> {
    const { rows } = await this.pool.query<{ given: FieldSet[] }>('select answers_of_run($1) as given', [runId]);
    return rows[0]!.given;
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
