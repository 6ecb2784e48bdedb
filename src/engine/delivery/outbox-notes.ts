import type pg from 'pg';
import { Batcher } from '../../db/hot/batcher.ts';
import { patient } from '../../db/hot/try-again.ts';

/** What a message came to. */
export interface SettledMessage {
  id: string;
  state: 'accepted' | 'refused' | 'unsure';
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

/** What the outbox asks and writes about its messages: one statement for all that come at the same time (db/hot/outbox.sql.ts). */
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
      name: 'settle-messages',
      text: 'select settle_messages($1, $2) as id',
      values: [JSON.stringify(all), this.holder],
    });
    const ours = new Set(rows.map(({ id }) => id));
    return all.map(({ id }) => ours.has(id));
  }

  private async waitAll(all: WaitingMessage[]): Promise<undefined[]> {
    await this.pool.query({
      name: 'put-off-messages',
      text: 'select put_off_messages($1, $2)',
      values: [JSON.stringify(all), this.holder],
    });
    return all.map(() => undefined);
  }

  private async takeSlots(all: AskedSlot[]): Promise<boolean[]> {
    const { rows } = await this.pool.query<{ id: string; free: boolean }>({
      name: 'take-slots',
      text: 'select id, free from take_slots($1)',
      values: [JSON.stringify(all)],
    });
    const free = new Map(rows.map((row) => [row.id, row.free]));
    return all.map(({ id }) => free.get(id)!);
  }
}
