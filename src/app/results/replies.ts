import type { Period } from '../../core/results/period.ts';
import {
  BANDS,
  doesFastPay,
  FAST_BANDS,
  type ShownBand,
  shownBands,
  type WaitReason,
} from '../../core/results/reply-times.ts';
import { wilson } from '../../core/statistics/wilson.ts';
import type { AskedResults } from './asked.ts';
import { type Group, groupCondition } from './group.ts';
import type { Looker } from './looker.ts';

export interface RepliesView {
  days: Period;
  period: AskedResults['period'];
  bands: ShownBand[];
  /** Who came in by themselves, and who of them was answered within five minutes, with the range of their share. */
  came: number;
  fast: number;
  range: { low: number; high: number } | null;
  /** Milliseconds; null where nobody was answered. */
  median: number | null;
  ninety: number | null;
  pays: { says: string; proves: boolean };
  /** By weekday from Monday (0 to 6) and hour, the business's clock: how many came, and how many were answered within five minutes. */
  hours: { day: number; hour: number; came: number; fast: number }[];
  /** What those answered later than five minutes, and those never answered, waited for; the most first. */
  waited: { reason: WaitReason; slow: number; never: number }[];
}

const FAST_SECONDS = BANDS[FAST_BANDS - 1]!.to / 1000;
// Nothing where there was no answer: greatest() itself would take the 0.
const AFTER = 'case when r.answered_at is not null then greatest(0, extract(epoch from r.answered_at - r.came_at)) end';
const BAND = `case ${BANDS.map(({ key, to }) =>
  Number.isFinite(to) ? `when (${AFTER}) <= ${to / 1000} then '${key}'` : `else '${key}'`,
).join(' ')} end`;

/**
 * What a slow or missing answer waited for, of rows of lead_result (as `r`) with their first message to them (`d`), its step (`s`), its run (`u`), and their
 * latest run (`v`).
 */
const REASON = `case
  when r.lead_id is null then 'unknown'
  when d.id is not null and d.sent_by_id is not null then 'person'
  when s.instead is not null then 'refused'
  when exists (select from jsonb_array_elements(s.attempts) x where x ->> 'outcome' = 'again') then 'outage'
  when d.id is not null and d.run_id is null then 'person'
  when u.created_at - r.came_at > interval '1 minute' then 'late'
  when s.started_at - u.created_at > interval '1 minute' then 'planned'
  when s.run_id is not null then 'hours'
  when d.id is not null then 'unknown'
  when v.id is null then 'no_workflow'
  when exists (select from step_result x where x.run_id = v.id and x.place = 'lead' and x.plan -> 'why' ->> 'code' in ('no_consent', 'withdrawn')) then 'no_consent'
  when exists (select from step_result x where x.run_id = v.id and x.place = 'lead' and x.plan -> 'why' ->> 'code' in ('no_address', 'bad_address', 'never_texted', 'other_country')) then 'no_address'
  when exists (select from delivery x where x.run_id = v.id and x.audience = 'lead' and x.state = 'draft') then 'person'
  when exists (select from step_result x where x.run_id = v.id and x.place = 'lead' and x.state in ('refused', 'ask')) then 'failed'
  when v.state = 'active' then 'under_way'
  else 'silent' end`;

/** How long those who come in wait for their first answer, what the slow ones waited for, and whether being fast brings appointments here. */
export async function getReplies(use: Looker, asked: AskedResults, group: Group): Promise<RepliesView> {
  const { from, to } = asked.days;
  const only = await groupCondition(use, group, 4);
  const where = `from lead_result r where r.business_id = $1 and r.rang and r.day between $2 and $3 and ${only.sql}`;
  const values = [use.actor.businessId, from, to, only.value];
  // Who booked before anybody could answer came in order to book: being answered has not made them.
  const [bands, never, times, hours, waited] = await Promise.all([
    use.db.query<{ key: string; of: number; did: number }>(
      `select ${BAND} as key, count(*)::int as of, count(r.booked_at)::int as did ${where} and r.answered_at is not null and (r.booked_at is null or r.booked_at > r.answered_at) group by 1`,
      values,
    ),
    use.db.query<{ of: number; did: number }>(
      `select count(*)::int as of, count(r.booked_at)::int as did ${where} and r.answered_at is null and (r.booked_at is null or r.booked_at > r.came_at + interval '1 minute')`,
      values,
    ),
    use.db.query<{ came: number; fast: number; after: [number, number] | null }>(
      `select count(*)::int as came, count(*) filter (where (${AFTER}) <= ${FAST_SECONDS})::int as fast,
         percentile_cont(array[0.5, 0.9]) within group (order by ${AFTER}) filter (where r.answered_at is not null) as after ${where}`,
      values,
    ),
    use.db.query<{ day: number; hour: number; came: number; fast: number }>(
      `select extract(isodow from r.came_at at time zone $5)::int - 1 as day, extract(hour from r.came_at at time zone $5)::int as hour, count(*)::int as came,
         count(*) filter (where (${AFTER}) <= ${FAST_SECONDS})::int as fast ${where} group by 1, 2`,
      [...values, use.actor.timeZone],
    ),
    use.db.query<{ reason: WaitReason; slow: number; never: number }>(
      `select ${REASON} as reason, count(r.answered_at)::int as slow, count(*) filter (where r.answered_at is null)::int as never
       from (select r.* ${where} and (r.answered_at is null or (${AFTER}) > ${FAST_SECONDS})) r
         left join lateral (select * from delivery where lead_id = r.lead_id and audience = 'lead' and accepted_at is not null and mailing_id is null
           and r.answered_at is not null order by accepted_at limit 1) d on true
         left join step_result s on s.run_id = d.run_id and s.step_id = d.step_id
         left join run u on u.id = d.run_id
         left join lateral (select * from run where lead_id = r.lead_id and r.answered_at is null order by created_at desc limit 1) v on true
       group by 1 order by count(*) desc`,
      values,
    ),
  ]);
  const { came, fast, after } = times.rows[0]!;
  const shown = shownBands(bands.rows, never.rows[0]!);
  return {
    ...{ days: asked.days, period: asked.period, came, fast, bands: shown, pays: doesFastPay(shown) },
    range: wilson({ did: fast, of: came }),
    median: after ? after[0] * 1000 : null,
    ninety: after ? after[1] * 1000 : null,
    hours: hours.rows,
    waited: waited.rows,
  };
}
