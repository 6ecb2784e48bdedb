import { median } from '../../core/words/median.ts';
import type { Channel } from '../../core/workflow/channel.ts';
import type { RunState } from '../../db/entities/run.ts';
import { leadName, type Named } from '../leads/lead-name.ts';
import type { Use } from '../use.ts';
import { listNeeds, type NeedView } from './needs-you.ts';

export interface RingRow {
  runId: string;
  workflowId: string;
  name: string;
  sourceName: string;
  at: string;
  state: RunState;
  outcome: string;
  sent: { channel: Channel; audience: 'lead' | 'team'; ok: boolean }[];
  replyMs: number | null;
}

export interface TodayView {
  /** Milliseconds; null when nobody has been answered yet. */
  middleReplyMs: number | null;
  newLeads: number;
  answered: number;
  answeredInFive: number;
  /** Appointments booked in the calendars listened to. */
  booked: number;
  /** Leads of each hour of the business's day, today and yesterday. */
  byHour: { today: number[]; yesterday: number[] };
  hourNow: number;
  ring: RingRow[];
  needs: NeedView[];
  needsCount: number;
  workflows: { id: string; name: string; today: number }[];
}

/** Somebody rings in: not by an old file, and not by joining one of our own lists, which they may do days later. */
const RINGS = `s.kind not in ('import', 'list')`;

/** A lead that rang, as the statement below names it. */
interface RangRow extends Named {
  id: string;
  workflow_id: string;
  state: TodayView['ring'][number]['state'];
  outcome: string;
  created_at: Date;
  first_reply_at: Date | null;
  source_name: string;
  sent: TodayView['ring'][number]['sent'];
}

/** The business's today, by its own time zone. */
export async function getToday(use: Use): Promise<TodayView> {
  const { db } = use;
  const { businessId, timeZone } = use.actor;
  const day = `date_trunc('day', now() at time zone $2)`;
  const [hours, replies, ring, workflows, needs] = await Promise.all([
    db.query<{ today: boolean; hour: number; n: number }>(
      `select (a.received_at at time zone $2) >= ${day} as today, extract(hour from a.received_at at time zone $2)::int as hour, count(*)::int as n
       from arrival a join lead l on l.id = a.lead_id and l.is_person join source s on s.id = a.source_id and ${RINGS} where a.business_id = $1 and a.state = 'read' and a.received_at >= (${day} - interval '1 day') at time zone $2 group by 1, 2`,
      [businessId, timeZone],
    ),
    db.query<{ ms: string }>(
      `select extract(epoch from r.first_reply_at - r.created_at) * 1000 as ms from run r join source s on s.id = r.source_id and ${RINGS}
       where r.business_id = $1 and r.created_at >= ${day} at time zone $2 and r.first_reply_at is not null and r.from_step is null`,
      [businessId, timeZone],
    ),
    db.query<RangRow>(
      `select r.id, r.workflow_id, r.state, r.outcome, r.created_at, r.first_reply_at, l.first_name, l.last_name, l.email, l.phone, s.name as source_name,
         coalesce((select jsonb_agg(jsonb_build_object('channel', d.channel, 'audience', d.audience, 'ok', d.state in ('accepted', 'delivered')) order by d.audience = 'team', d.created_at)
           from delivery d where d.run_id = r.id and d.state not in ('sending', 'draft', 'dropped')), '[]') as sent
       from run r join lead l on l.id = r.lead_id join source s on s.id = r.source_id and ${RINGS} where r.business_id = $1 order by r.created_at desc limit 12`,
      [businessId],
    ),
    db.query<{ id: string; name: string; today: number }>(
      `select w.id, w.name, count(r.id)::int as today from workflow w left join run r on r.workflow_id = w.id and r.created_at >= ${day} at time zone $2
       where w.business_id = $1 and w.state = 'live' group by w.id order by today desc, w.name limit 8`,
      [businessId, timeZone],
    ),
    listNeeds(use, 6),
  ]);
  const byHour = { today: Array<number>(24).fill(0), yesterday: Array<number>(24).fill(0) };
  for (const row of hours.rows) byHour[row.today ? 'today' : 'yesterday'][row.hour] = row.n;
  const { rows } = await db.query<{ hour: number; leads: number; booked: number }>(
    `select extract(hour from now() at time zone $1)::int as hour,
       (select count(distinct l.id)::int from lead l join arrival a on a.lead_id = l.id join source s on s.id = a.source_id and ${RINGS}
         where l.business_id = $2 and l.is_person and l.created_at >= date_trunc('day', now() at time zone $1) at time zone $1) as leads,
       (select count(*)::int from arrival a join source s on s.id = a.source_id where s.business_id = $2 and s.kind = 'booking-calendar' and a.state = 'read'
         and a.fields @> '[{"key": "event", "value": "booked"}]' and a.received_at >= date_trunc('day', now() at time zone $1) at time zone $1) as booked`,
    [timeZone, businessId],
  );
  const now = rows[0]!;
  const ms = replies.rows.map((row) => Number(row.ms));
  return {
    middleReplyMs: median(ms),
    newLeads: now.leads,
    answered: ms.length,
    booked: now.booked,
    answeredInFive: ms.filter((one) => one <= 5 * 60_000).length,
    byHour,
    hourNow: now.hour,
    ring: ring.rows.map((row) => ({
      runId: row.id,
      workflowId: row.workflow_id,
      name: leadName(row),
      sourceName: row.source_name,
      at: row.created_at.toISOString(),
      state: row.state,
      outcome: row.outcome,
      sent: row.sent,
      replyMs: row.first_reply_at ? row.first_reply_at.getTime() - row.created_at.getTime() : null,
    })),
    needs: needs.needs,
    needsCount: needs.count,
    workflows: workflows.rows,
  };
}
