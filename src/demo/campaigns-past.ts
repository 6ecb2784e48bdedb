import { v7 as uuidv7 } from 'uuid';
import type { Use } from '../app/use.ts';
import type { KnownSource } from '../engine/settings-cache.ts';
import { adBy, CAMPAIGNS } from './campaigns.ts';
import { booking, type Told } from './other-pasts.ts';
import type { Invented } from './people.ts';
import { seededRandom } from './seeded-random.ts';
import { entryOf } from './trial-entry.ts';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
/** How far back the campaigns ran. */
const BEGAN_DAYS = 62;
const A_DAY = 7;

/** What the campaigns brought in the weeks before the two that are told in full: leads, and the appointments they booked, kept, missed or cancelled. */
export function weeksBefore(
  sourceOf: (name: string) => KnownSource,
  trial: KnownSource,
  next: () => Invented,
  { now, days, random }: { now: number; days: number; random: () => number },
): Told[] {
  const bookings = sourceOf('Bookings');
  const told: Told[] = [];
  let n = 0;
  for (let back = BEGAN_DAYS; back > days; back--) {
    const dayStart = now - back * DAY - (now % DAY);
    const many = A_DAY + Math.floor(random() * 4) - 1;
    for (let i = 0; i < many; i++) {
      const person = next();
      const at = dayStart + (8 + random() * 13) * HOUR;
      const { campaign, ad, adSet } = adBy(random());
      const entry = entryOf(
        person,
        { campaign: asTyped(campaign.name, n), ad, adSet },
        { shout: false, agrees: true, n: ++n },
      );
      told.push({ source: trial, at, person, campaign, sent: entry });
      // Some come back by another ad before they book.
      const again = random() < 0.14 ? at + (0.5 + random() * 3) * DAY : null;
      if (again) {
        const other = adBy(random());
        const once = { campaign: other.campaign.name, ad: other.ad, adSet: other.adSet };
        told.push({
          ...{ source: trial, at: again, person, campaign: other.campaign },
          sent: entryOf(person, once, { shout: false, agrees: true, n: ++n }),
        });
      }
      if (random() >= campaign.books) continue;
      const booked = (again ?? at) + (0.1 + random() * 2.5) * DAY;
      const start =
        booked - (booked % DAY) + (2 + Math.floor(random() * 5)) * DAY + (15 + Math.floor(random() * 4)) * HOUR;
      const event = (event: string, when: number) =>
        told.push({ source: bookings, at: when, person, sent: booking(person, when, `before-${n}`, start, event) });
      event('booked', booked);
      if (random() < 0.07) event('cancelled', start - DAY / 2);
      else if (random() >= campaign.comes) event('no-show', start + HOUR);
    }
  }
  return told.filter(({ at }) => at < now - HOUR);
}

/** One ad was copied by hand, and its campaign written another way. */
const asTyped = (name: string, n: number): string => (name === 'autumn-trial' && n % 29 === 7 ? 'Autumn trial' : name);

/** What came of the trial lessons that were kept, and what the ads cost, day by day. */
export async function campaignResults(use: Use, seed: number): Promise<void> {
  const random = seededRandom(seed);
  const { pool, now } = { pool: use.runtime.pool, now: use.runtime.now() };
  const { businessId, personId } = use.actor;
  const { rows: stages } = await pool.query<{ id: string; pipeline_id: string; ends: string | null; position: number }>(
    `select s.id, s.pipeline_id, s.ends, s.position from stage s join pipeline p on p.id = s.pipeline_id where p.business_id = $1 and p.name = 'Lessons' order by s.position`,
    [businessId],
  );
  const { rows: had } = await pool.query<{
    lead_id: string;
    name: string;
    instrument: string;
    campaign: string;
    ended: Date;
  }>(
    `select a.lead_id, l.first_name || ' ' || l.last_name as name, coalesce(l.answers ->> 'instrument', 'Lessons') as instrument, coalesce(t.where_from ->> 'campaign', '') as campaign,
       (f.end ->> 'value')::timestamptz as ended
     from arrival a join source s on s.id = a.source_id join lead l on l.id = a.lead_id
       left join lateral (select where_from from touch t where t.lead_id = l.id order by t.at limit 1) t on true,
       lateral (select x as end from jsonb_array_elements(a.fields) x where x ->> 'key' = 'appointment.end') f
     where a.business_id = $1 and s.name = 'Bookings' and a.fields @> '[{"key": "event", "value": "booked"}]' and (f.end ->> 'value')::timestamptz < now() - interval '2 days'
       and not exists (select from arrival o where o.lead_id = a.lead_id and o.source_id = a.source_id and (o.fields @> '[{"key": "event", "value": "no-show"}]' or o.fields @> '[{"key": "event", "value": "cancelled"}]'))
       and not exists (select from deal d where d.lead_id = l.id) order by a.received_at`,
    [businessId],
  );
  const values = [480, 540, 620, 720];
  for (const { lead_id, name, instrument, campaign, ended } of had) {
    const signsUp = CAMPAIGNS.find((one) => one.name === campaign)?.signsUp ?? 0.3;
    const won = random() < signsUp;
    const at = new Date(Math.min(now - HOUR, ended.getTime() + (0.2 + random() * 3) * DAY));
    const stage = stages.find(({ ends }) => ends === (won ? 'won' : 'lost'))!;
    const [deal, opened] = [uuidv7(), new Date(ended.getTime() - DAY)];
    await pool.query(
      `insert into deal (id, business_id, lead_id, pipeline_id, stage_id, title, value, next_step, created_at, moved_at, closed_at) values ($1, $2, $3, $4, $5, $6, $7, '', $8, $9, $9)`,
      [
        deal,
        businessId,
        lead_id,
        stage.pipeline_id,
        stage.id,
        `${instrument}, ${name}`,
        values[Math.floor(random() * values.length)],
        opened,
        at,
      ],
    );
    for (const [stageId, when, by] of [
      [stages[0]!.id, opened, null],
      [stages[2]!.id, ended, personId],
      [stage.id, at, personId],
    ] as const)
      await pool.query(
        'insert into deal_move (id, deal_id, lead_id, stage_id, at, person_id) values ($1, $2, $3, $4, $5, $6)',
        [...[uuidv7(), deal, lead_id, stageId, when, by]],
      );
  }
  await writeCosts(use, random);
}

/** A line for each ad and day: so much for each lead it brought, give or take, and a little on days it brought none. */
async function writeCosts(use: Use, random: () => number): Promise<void> {
  const { businessId, timeZone } = use.actor;
  const { rows } = await use.runtime.pool.query<{
    day: string;
    campaign: string;
    ad_set: string;
    ad: string;
    n: number;
  }>(
    `select (t.at at time zone $2)::date::text as day, t.where_from ->> 'campaign' as campaign, t.where_from ->> 'ad_set' as ad_set, t.where_from ->> 'ad' as ad, count(*)::int as n
     from touch t where t.business_id = $1 and t.where_from ->> 'campaign' = any($3) group by 1, 2, 3, 4 order by 1, 2, 3, 4`,
    [businessId, timeZone, CAMPAIGNS.map(({ name }) => name)],
  );
  const lines = rows.map(({ n, campaign, ...row }) => {
    const { perLead } = CAMPAIGNS.find(({ name }) => name === campaign)!;
    const cost = Math.max(0.5, n * perLead * (0.85 + 0.3 * random())).toFixed(2);
    const clicks = n * (6 + Math.floor(random() * 9));
    return { ...row, id: uuidv7(), campaign, cost, clicks, impressions: clicks * (35 + Math.floor(random() * 30)) };
  });
  await use.runtime.pool.query(
    `insert into ad_cost (id, business_id, day, site, campaign, ad_set, ad, cost, currency, impressions, clicks, via, read_at)
     select id, $1, day, 'ad-platform', campaign, ad_set, ad, cost, 'GBP', impressions, clicks, 'ad-costs-so-far.csv', now() from jsonb_to_recordset($2::jsonb)
       as x(id uuid, day date, campaign text, ad_set text, ad text, cost numeric, impressions int, clicks int)`,
    [businessId, JSON.stringify(lines)],
  );
}
