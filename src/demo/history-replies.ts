import { v7 as uuidv7 } from 'uuid';
import type { Runtime } from '../runtime.ts';
import type { DemoMade } from './build.ts';

const REPLIES = [
  '2 please! Thursday after work would be great',
  '1',
  'Yes please call me after 5',
  '2',
  'Do you also teach adults?',
  'Tuesday at 6 would suit us',
  '1 thank you',
  'How much is a term?',
];

/** About one in five writes back; a few ask for no more texts. */
export async function replies(runtime: Runtime, made: DemoMade, random: () => number): Promise<void> {
  const { rows } = await runtime.pool.query<{
    lead_id: string;
    recipient: string;
    connection_id: string;
    accepted_at: Date;
  }>(
    `select lead_id, recipient, connection_id, accepted_at from delivery where business_id = $1 and channel = 'text' and accepted_at < now() - interval '40 minutes' order by accepted_at`,
    [made.actor.businessId],
  );
  for (const row of rows) {
    const draw = random();
    if (draw > 0.21) continue;
    const stop = draw > 0.195;
    const text = stop ? 'STOP' : REPLIES[Math.floor(random() * REPLIES.length)]!;
    const at = new Date(row.accepted_at.getTime() + 60_000 + Math.floor(random() * 35 * 60_000));
    await runtime.pool.query(
      `insert into inbound (id, business_id, connection_id, remote_id, channel, sender, lead_id, text, received_at) values ($1, $2, $3, $4, 'text', $5, $6, $7, $8)`,
      [
        uuidv7({ msecs: at.getTime() }),
        made.actor.businessId,
        row.connection_id,
        `past-${uuidv7()}`,
        row.recipient,
        row.lead_id,
        text,
        at,
      ],
    );
    if (stop)
      await runtime.pool.query(
        `insert into consent (id, business_id, lead_id, channel, state, wording, how, at) values ($1, $2, $3, 'text', 'withdrawn', 'STOP', 'Wrote back by text', $4)`,
        [uuidv7({ msecs: at.getTime() }), made.actor.businessId, row.lead_id, at],
      );
  }
}
