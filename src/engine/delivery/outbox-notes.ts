import type pg from 'pg';
import { Batcher } from '../../db/hot/batcher.ts';
import { patient } from '../../db/hot/try-again.ts';

/** What a message came to. */
export interface SettledMessage {
  id: string;
  state: 'accepted' | 'refused';
  detail: string;
  remote_id: string | null;
  /** ISO 8601. */
  at: string;
}
interface WaitingMessage {
  id: string;
  until: string;
  detail: string;
  /** 1 where nothing was tried, so that it does not count as a try; else 0. */
  untried: 0 | 1;
}
interface AskedSlot {
  id: string;
  lead_id: string | null;
  business_id: string;
}

const TOGETHER = { parallel: 2, most: 100, again: patient };

/** What the outbox asks and writes about its messages: one statement for all that come at the same time. Rows are locked in the order of their ids. */
export class OutboxNotes {
  private readonly settling = new Batcher<SettledMessage, boolean>((all) => this.settleAll(all), TOGETHER);
  private readonly waiting = new Batcher<WaitingMessage, undefined>((all) => this.waitAll(all), TOGETHER);
  private readonly slots = new Batcher<AskedSlot, boolean>((all) => this.takeSlots(all), TOGETHER);

  constructor(
    private readonly pool: pg.Pool,
    private readonly holder: string,
  ) {}

  /** Notes what came of it. False when it belongs to another process by now. */
  settle(message: SettledMessage): Promise<boolean> {
    return this.settling.add(message);
  }

  /** It goes on at `until` (milliseconds). `held`: nothing was tried. */
  async wait(id: string, until: number, detail: string, held: boolean): Promise<void> {
    await this.waiting.add({ id, until: new Date(until).toISOString(), detail, untried: held ? 1 : 0 });
  }

  /** Whether it is within what one person gets of news and offers in a day: hot/wishes.sql.ts. */
  hasSlot(asked: AskedSlot): Promise<boolean> {
    return this.slots.add(asked);
  }

  private async settleAll(all: SettledMessage[]): Promise<boolean[]> {
    const { rows } = await this.pool.query<{ id: string }>({
      name: 'outbox-settle',
      text: `with x as (select * from jsonb_to_recordset($1) as x(id uuid, state text, detail text, remote_id text, at timestamptz)),
         mine as materialized (select d.id from delivery d where d.id in (select id from x) and d.lease_by = $2 order by d.id for no key update),
         done as (update delivery d set state = case when d.reported_at is null then x.state else d.state end, detail = x.detail,
             remote_id = coalesce(x.remote_id, d.remote_id),
             accepted_at = coalesce(d.accepted_at, case when x.state = 'accepted' then x.at end), due_at = null, lease_by = null
           from x join mine using (id) where d.id = x.id returning d.id, d.run_id, d.audience, x.state, x.at),
         replied as (update run r set first_reply_at = coalesce(r.first_reply_at, d.at)
           from (select run_id, min(at) as at from done where audience = 'lead' and state = 'accepted' group by run_id order by run_id) d where r.id = d.run_id)
       select id from done`,
      values: [JSON.stringify(all), this.holder],
    });
    const ours = new Set(rows.map(({ id }) => id));
    return all.map(({ id }) => ours.has(id));
  }

  private async waitAll(all: WaitingMessage[]): Promise<undefined[]> {
    await this.pool.query({
      name: 'outbox-wait',
      text: `with x as (select * from jsonb_to_recordset($1) as x(id uuid, until timestamptz, detail text, untried int)),
         mine as materialized (select d.id from delivery d where d.id in (select id from x) and d.lease_by = $2 order by d.id for no key update)
       update delivery d set due_at = x.until, detail = x.detail, lease_by = null, tries = d.tries - x.untried from x join mine using (id) where d.id = x.id`,
      values: [JSON.stringify(all), this.holder],
    });
    return all.map(() => undefined);
  }

  private async takeSlots(all: AskedSlot[]): Promise<boolean[]> {
    const { rows } = await this.pool.query<{ id: string; free: boolean }>({
      name: 'outbox-slots',
      // By lead, as they are locked.
      text: `select x.id, take_marketing_slot(x.id, x.lead_id, x.business_id) as free
        from (select * from jsonb_to_recordset($1) as x(id uuid, lead_id uuid, business_id uuid) order by lead_id, id) x`,
      values: [JSON.stringify(all)],
    });
    const free = new Map(rows.map((row) => [row.id, row.free]));
    return all.map(({ id }) => free.get(id)!);
  }
}
