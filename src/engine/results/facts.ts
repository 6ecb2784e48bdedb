import { byKey } from '../../core/results/by-key.ts';
import type { LeadFacts, TouchAt } from '../../core/results/credits.ts';
import { marksOf } from '../../core/results/origin.ts';
import {
  type AppointmentEvent,
  appointmentOutcomes,
  dealOutcomes,
  type OrderEvent,
  type Outcome,
  orderOutcomes,
  readMoney,
} from '../../core/results/outcomes.ts';
import { inOwnCurrency, type Rate } from '../../core/results/rates.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { dayOf } from '../../core/time/day-of.ts';
import { currencyOf } from '../../core/words/money.ts';
import type { Db } from '../../db/db.ts';

/** A lead with everything results are reckoned from. */
export interface KnownLead extends LeadFacts {
  id: string;
  businessId: string;
  timeZone: string;
  rang: boolean;
  /** When it has to be looked at again though nothing has happened, milliseconds; null for never. */
  until: number | null;
}

interface LeadRow {
  id: string;
  business_id: string;
  created_at: Date;
  time_zone: string;
  country: string;
  source_id: string | null;
  source_kind: string | null;
}
interface HappeningRow {
  lead_id: string;
  source_id: string;
  kind: string;
  received_at: Date;
  fields: { key: string; value: string }[];
}

/** Sources that tell of what has come of a lead. */
const TELLING = ['booking-calendar', 'shop', 'funnel'];
/** By these nobody rings in: they came by an old file, or joined one of our own lists. */
const SILENT = new Set(['import', 'list']);

/** What results are reckoned from, of these leads as they stand; who is no lead (any more) is left out. `now` in milliseconds. */
export async function leadFacts(db: Db, ids: readonly string[], now: number): Promise<KnownLead[]> {
  const asked = [ids];
  const leads = await db.query<LeadRow>(
    `select l.id, l.business_id, l.created_at, b.time_zone, b.country, a.source_id, a.kind as source_kind
     from lead l join business b on b.id = l.business_id
       left join lateral (select a.source_id, s.kind from arrival a join source s on s.id = a.source_id where a.lead_id = l.id and a.state = 'read' order by a.received_at, a.id limit 1) a on true
     where l.id = any($1) and l.is_person`,
    asked,
  );
  const touches = await db.query<{ lead_id: string; at: Date; where_from: WhereFrom; source_id: string | null }>(
    `select t.lead_id, t.at, t.where_from, a.source_id from touch t left join arrival a on a.id = t.arrival_id where t.lead_id = any($1) order by t.at, t.id`,
    asked,
  );
  const happened = await db.query<HappeningRow>(
    `select a.lead_id, a.source_id, s.kind, a.received_at, a.fields from arrival a join source s on s.id = a.source_id
     where a.lead_id = any($1) and a.state = 'read' and s.kind = any($2) order by a.received_at, a.id`,
    [ids, TELLING],
  );
  const spoken = await db.query<{ lead_id: string; answered_at: Date; replied_at: Date | null }>(
    `select d.lead_id, d.at as answered_at, (select min(i.received_at) from inbound i where i.lead_id = d.lead_id and i.received_at > d.at) as replied_at
     from (select lead_id, min(accepted_at) as at from delivery where lead_id = any($1) and audience = 'lead' and accepted_at is not null and mailing_id is null group by lead_id) d`,
    asked,
  );
  const joined = await db.query<{ lead_id: string; list_id: string; joined_at: Date }>(
    `select lead_id, list_id, joined_at from list_member where lead_id = any($1) and state <> 'waiting'`,
    asked,
  );
  const deals = await db.query<{
    lead_id: string;
    id: string;
    ends: 'won' | 'lost' | null;
    at: Date | null;
    value: string | null;
    currency: string;
    won: { from: string; to: string | null }[] | null;
  }>(
    `select d.lead_id, d.id, s.ends, d.closed_at as at, d.value, p.currency,
       (select jsonb_agg(jsonb_build_object('from', m.at, 'to', m.until) order by m.at) from
         (select at, stage_id, lead(at) over (order by at, id) as until from deal_move where deal_id = d.id) m join stage w on w.id = m.stage_id where w.ends = 'won') as won
     from deal d join stage s on s.id = d.stage_id join pipeline p on p.id = d.pipeline_id where d.lead_id = any($1)`,
    asked,
  );
  const stages = await db.query<{ lead_id: string; deal_id: string; stage_id: string; at: Date }>(
    `select lead_id, deal_id, stage_id, min(at) as at from deal_move where lead_id = any($1) group by 1, 2, 3`,
    asked,
  );
  const noted = await db.query<{
    lead_id: string;
    kind_id: string;
    key: string;
    at: Date;
    amount: string | null;
    currency: string;
  }>('select lead_id, kind_id, key, at, amount, currency from noted_outcome where lead_id = any($1)', asked);
  const rates = await ratesOf(db, [...new Set(leads.rows.map((row) => row.business_id))]);

  const touchesOf = byKey(touches.rows, (row) => row.lead_id);
  const happenedOf = byKey(happened.rows, (row) => row.lead_id);
  const spokenOf = new Map(spoken.rows.map((row) => [row.lead_id, row]));
  const joinedOf = byKey(joined.rows, (row) => row.lead_id);
  const dealsOf = byKey(deals.rows, (row) => row.lead_id);
  const stagesOf = byKey(stages.rows, (row) => row.lead_id);
  const notedOf = byKey(noted.rows, (row) => row.lead_id);
  return leads.rows.map((lead): KnownLead => {
    const { id } = lead;
    const { appointments, orders } = toldOf(happenedOf.get(id) ?? []);
    const kept = appointmentOutcomes(appointments, now);
    const said = spokenOf.get(id);
    const none = { money: null, currency: '' };
    const outcomes: Outcome[] = [
      ...kept.outcomes,
      ...orderOutcomes(orders),
      ...(said?.replied_at ? [{ key: '', kind: 'replied' as const, at: said.replied_at.getTime(), ...none }] : []),
      ...(joinedOf.get(id) ?? []).map((row) => ({
        ...{ key: row.list_id, kind: 'listed' as const, at: row.joined_at.getTime() },
        ...none,
      })),
      ...(dealsOf.get(id) ?? []).flatMap((row) =>
        dealOutcomes({
          ...{ id: row.id, ends: row.ends, at: row.at?.getTime() ?? null, currency: row.currency },
          value: amount(row.value, row.currency).money,
          won: (row.won ?? []).map(({ from, to }) => ({
            from: Date.parse(from),
            to: to === null ? null : Date.parse(to),
          })),
        }),
      ),
      ...(stagesOf.get(id) ?? []).map((row) => ({
        ...{ key: row.deal_id, kind: `stage:${row.stage_id}` as const, at: row.at.getTime() },
        ...none,
      })),
      ...(notedOf.get(id) ?? []).map((row) => ({
        ...{ key: row.key, kind: `own:${row.kind_id}` as const, at: row.at.getTime() },
        ...amount(row.amount, row.currency),
      })),
    ];
    const own = currencyOf(lead.country);
    const ofBusiness = rates.get(lead.business_id) ?? [];
    return {
      id,
      businessId: lead.business_id,
      timeZone: lead.time_zone,
      createdAt: lead.created_at.getTime(),
      sourceId: lead.source_id,
      rang: lead.source_kind !== null && !SILENT.has(lead.source_kind),
      answeredAt: said ? Math.max(said.answered_at.getTime(), lead.created_at.getTime()) : null,
      touches: (touchesOf.get(id) ?? []).map(
        (row): TouchAt => ({
          at: row.at.getTime(),
          origin: { ...marksOf(row.where_from), sourceId: row.source_id },
        }),
      ),
      outcomes: outcomes.map((one) =>
        one.money === null
          ? one
          : { ...one, ...inOwnCurrency(one.money, one.currency, own, dayOf(one.at, lead.time_zone), ofBusiness) },
      ),
      until: kept.until,
    };
  });
}

const amount = (value: string | null, currency: string): { money: number | null; currency: string } => ({
  money: value === null ? null : Math.round(Number(value) * 100),
  currency: value === null ? '' : currency,
});

export async function ratesOf(db: Db, businessIds: readonly string[]): Promise<Map<string, Rate[]>> {
  const { rows } = await db.query<{ business_id: string; currency: string; day: string; rate: string }>(
    'select business_id, currency, day::text, rate from currency_rate where business_id = any($1)',
    [businessIds],
  );
  return byKey(
    rows.map((row) => ({ ...row, rate: Number(row.rate) })),
    (row) => row.business_id,
  );
}

/** What booking calendars, shops and funnels told of somebody. */
function toldOf(rows: readonly HappeningRow[]): { appointments: AppointmentEvent[]; orders: OrderEvent[] } {
  const appointments: AppointmentEvent[] = [];
  const orders: OrderEvent[] = [];
  for (const { source_id, kind, received_at, fields } of rows) {
    const field = (key: string) => fields.find((one) => one.key === key)?.value ?? '';
    const at = received_at.getTime();
    if (kind === 'booking-calendar') {
      const end = Date.parse(field('appointment.end'));
      const appointment = `${source_id}:${field('appointment.id')}`;
      appointments.push({ event: field('event'), at, appointment, end: Number.isNaN(end) ? null : end });
      continue;
    }
    const number = field(kind === 'shop' ? 'order.number' : 'order.id');
    if (number === '') continue;
    const total = readMoney(field('order.total'));
    orders.push({
      ...{ event: field('event'), at, order: `${source_id}:${number}`, state: field('order.status') },
      ...{ total: total?.hundredths ?? null, currency: total?.currency ?? '' },
    });
  }
  return { appointments, orders };
}
