import { isbot } from 'isbot';
import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { storableText } from '../../core/fields/field.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import type { Bell } from '../bell.ts';
import { tellOf } from '../runs/tell-of.ts';

interface Tracked {
  business_id: string;
  delivery_id: string;
  run_id: string | null;
  step_id: string;
  lead_id: string;
  url: string | null;
  accepted_at: Date | null;
}

/** What is known of who asks. */
export interface Visitor {
  method: string;
  agent: string;
  /** Says that this is no person looking: "prefetch". */
  purpose: string;
}

/** An email opened this soon after it was taken has been opened by a machine that checks it. Common practice, no source. */
const TOO_SOON_MS = 2000;

/** Leads on short addresses of ours to where they go, and counts those people follow. */
export class FollowedLinks {
  constructor(private readonly parts: { pool: pg.Pool; bell: Bell; now: () => number }) {}

  /** Where a short address leads; null when there is none of that name. Counted before the answer goes out. */
  async follow(token: string, visitor: Visitor): Promise<string | null> {
    const tracked = await this.find(token);
    if (!tracked || tracked.url === null) return null;
    await this.note(token, tracked, 'link', visitor, isMachine(visitor));
    return tracked.url;
  }

  /** The picture in an email was asked for. */
  async opened(token: string, visitor: Visitor): Promise<void> {
    const tracked = await this.find(token);
    if (!tracked || tracked.url !== null) return;
    const since = tracked.accepted_at ? this.parts.now() - tracked.accepted_at.getTime() : 0;
    await this.note(token, tracked, 'opened', visitor, isMachine(visitor) || since < TOO_SOON_MS);
  }

  private async find(token: string): Promise<Tracked | null> {
    const { rows } = await this.parts.pool.query<Tracked>(
      `select t.business_id, t.delivery_id, t.run_id, t.step_id, t.lead_id, t.url, d.accepted_at
       from tracked_link t left join delivery d on d.id = t.delivery_id where t.token = $1`,
      [token],
    );
    return rows[0] ?? null;
  }

  private async note(
    token: string,
    tracked: Tracked,
    kind: 'link' | 'opened',
    visitor: Visitor,
    machine: boolean,
  ): Promise<void> {
    await inTransaction(this.parts.pool, async (client) => {
      await client.query(
        `insert into visit (id, business_id, token, delivery_id, run_id, step_id, lead_id, kind, machine, agent, at)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)`,
        [
          uuidv7(),
          tracked.business_id,
          token,
          tracked.delivery_id,
          tracked.run_id,
          tracked.step_id,
          tracked.lead_id,
          kind,
          machine,
          storableText(visitor.agent).slice(0, 300),
          new Date(this.parts.now()),
        ],
      );
      if (!machine && tracked.run_id) {
        const sent = { runId: tracked.run_id, stepId: tracked.step_id };
        await tellOf(
          client,
          tracked.lead_id,
          kind === 'link' ? { event: 'link', ...sent, url: tracked.url ?? '' } : { event: 'opened', ...sent },
        );
      }
    });
    this.parts.bell.ring(tracked.business_id);
  }
}

const isMachine = ({ method, agent, purpose }: Visitor): boolean =>
  method !== 'GET' || agent.trim() === '' || isbot(agent) || /prefetch|preview/i.test(purpose);
