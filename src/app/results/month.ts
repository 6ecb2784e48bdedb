import { z } from 'zod';
import { readEmail } from '../../core/message/email-address.ts';
import {
  daysOfMonth,
  type MonthCampaign,
  type MonthFigures,
  monthBefore,
  monthName,
  monthOf,
  monthSentences,
  nextMonthPage,
} from '../../core/results/month.ts';
import { dayOf } from '../../core/time/day-of.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import type { AskedResults } from './asked.ts';
import type { Looker } from './looker.ts';
import { getReplies } from './replies.ts';
import type { ShownRow } from './where-from.ts';
import { getWhereFrom, type WhereFromView } from './where-from.ts';

export interface MonthView {
  /** "2026-10". */
  month: string;
  name: string;
  currency: string;
  /** It is not over yet. */
  underWay: boolean;
  sentences: { text: string; href: string }[];
  /** By campaign, what happened in the month. */
  all: ShownRow;
  /** Months there is something of, the latest first. */
  months: string[];
}

const Month = z.string().regex(/^\d{4}-(0[1-9]|1[0-2])$/);

/** The month that is asked for, or the last that is over. */
export function askedMonth(query: URLSearchParams, now: number, timeZone: string): string {
  const asked = Month.safeParse(query.get('month'));
  const today = monthOf(dayOf(now, timeZone));
  return asked.success && asked.data <= today && asked.data >= '2000-01' ? asked.data : monthBefore(today);
}

/** The page of a month: five sentences, and the campaigns. */
export async function getMonth(use: Looker, month: string, now: number): Promise<MonthView> {
  const whole = daysOfMonth(month);
  const today = dayOf(now, use.actor.timeZone);
  // Of a month under way as many days are compared with as there have been.
  const underWay = whole.to > today;
  const days = underWay ? { from: whole.from, to: today } : whole;
  const asked: AskedResults = { ...{ model: 'first', by: 'campaign', basis: 'happened', goal: 'booked', days }, today };
  const [happened, came, replies, back, months] = await Promise.all([
    getWhereFrom(use, asked),
    getWhereFrom(use, { ...asked, basis: 'came' }),
    getReplies(use, asked, { of: 'all' }),
    backOf(use, days),
    use.db.query<{ month: string }>(
      `select distinct to_char(day, 'YYYY-MM') as month from result_day where business_id = $1 and basis = 'happened' and day <= $2 order by 1 desc limit 60`,
      [use.actor.businessId, asked.today],
    ),
  ]);
  const { locale } = use.actor;
  const query = `from=${days.from}&to=${days.to}`;
  const HREF = {
    'where-from': `/results?${query}&basis=happened`,
    replies: `/results/replies?${query}`,
    costs: `/results?${query}`,
  };
  return {
    ...{ month, name: monthName(month, locale), currency: happened.currency, all: happened.all },
    underWay,
    months: [...new Set([month, ...months.rows.map((row) => row.month)])].sort().reverse(),
    sentences: monthSentences(figuresOf(happened, came, { did: replies.fast, of: replies.came }, back), {
      ...{ locale, currency: happened.currency },
      before: underWay ? 'in as many days before' : `in ${monthName(monthBefore(month), locale, false)}`,
    }).map(({ text, at }) => ({ text, href: HREF[at] })),
  };
}

type Back = Pick<MonthFigures, 'backOfEarlier' | 'backSince'>;

function figuresOf(
  happened: WhereFromView,
  came: WhereFromView,
  inTime: { did: number; of: number },
  back: Back,
): MonthFigures {
  const { all } = happened;
  const rates = new Map(came.all.children.map((row) => [row.path[0]!, row.rate]));
  const names = new Set([...happened.all.children, ...came.all.children].map((row) => row.path[0]!));
  const rows = new Map(happened.all.children.map((row) => [row.path[0]!, row]));
  return {
    ...{ leads: all.leads, leadsBefore: all.leadsBefore, leadsChanged: all.leadsChanged, inTime },
    ...{ booked: all.goal, bookedBefore: all.goalBefore, bookedChanged: all.goalChanged },
    ...{ kept: all.kept, sales: all.sales, money: all.money, moneyBefore: all.moneyBefore, cost: all.cost },
    ...{ back: turned(all.refunds), ...back },
    campaigns: [...names].map((name): MonthCampaign => {
      const row = rows.get(name);
      const rate = rates.get(name);
      return {
        ...{ name, leads: row?.leads ?? 0, booked: row?.goal ?? 0, sales: row?.sales ?? 0 },
        ...{
          money: row?.money ?? {},
          cost: row?.cost ?? {},
          rate: rate ? { did: rate.did, of: rate.of } : { did: 0, of: 0 },
        },
      };
    }),
  };
}

const turned = (sums: Record<string, number>): Record<string, number> =>
  Object.fromEntries(Object.entries(sums).map(([currency, sum]) => [currency, 0 - sum]));

/** What went back in these days of earlier sales, and since of the sales of these days. Corrections have the key of what they correct and a number behind it. */
async function backOf(use: Looker, { from, to }: { from: string; to: string }): Promise<Back> {
  const { rows } = await use.db.query<{ since: boolean; currency: string; sum: string }>(
    `select r.day > $3 as since, r.currency, -sum(r.money_first) as sum from result_credit r
     where r.business_id = $1 and r.kind = 'refunded' and r.day >= $2
       and exists (select from result_credit o where o.result_id = r.result_id and o.kind in ('ordered', 'won') and o.key = split_part(r.key, '#', 1)
         and case when r.day > $3 then o.day between $2 and $3 else o.day < $2 end)
     group by 1, 2`,
    [use.actor.businessId, from, to],
  );
  const of = (since: boolean) =>
    Object.fromEntries(rows.filter((row) => row.since === since).map((row) => [row.currency, Number(row.sum)]));
  return { backOfEarlier: of(false), backSince: of(true) };
}

export interface MonthMail {
  day: number;
  recipients: string[];
  nextAt: string;
  lastAt: string | null;
  trouble: string;
}

/** To whom the page of the month is sent by itself; null for nobody. */
export async function getMonthMail(use: Use): Promise<MonthMail | null> {
  const { rows } = await use.db.query<{
    day: number;
    recipients: string[];
    next_at: Date;
    last_at: Date | null;
    trouble: string;
  }>('select day, recipients, next_at, last_at, trouble from month_page where business_id = $1', [
    use.actor.businessId,
  ]);
  const row = rows[0];
  if (!row) return null;
  const { day, recipients, trouble } = row;
  return { day, recipients, trouble, nextAt: row.next_at.toISOString(), lastAt: row.last_at?.toISOString() ?? null };
}

export const MonthMailInput = z.object({
  day: z.number().int().min(1).max(28, 'Choose a day every month has: 1 to 28'),
  /** Addresses with commas between them; none for no longer. */
  recipients: z.string().max(2000),
});
const MOST_RECIPIENTS = 20;

/** Says to whom the page of the month goes, and on which day. Nobody at all ends it. */
export async function setMonthMail(
  tx: Write,
  { day, recipients }: z.output<typeof MonthMailInput>,
): Promise<MonthMail | null> {
  demand(tx.actor, 'build');
  const { businessId, personId, timeZone } = tx.actor;
  const typed = recipients.split(/[\s,;]+/).filter(Boolean);
  const read = typed.map((one) => ({ one, email: readEmail(one) }));
  const wrong = read.find(({ email }) => !email.ok);
  if (wrong) throw new Refusal(422, 'address', `“${wrong.one}” is no email address.`, { field: 'recipients' });
  const all = [...new Set(read.flatMap(({ email }) => (email.ok ? [email.address] : [])))];
  if (all.length > MOST_RECIPIENTS)
    throw new Refusal(422, 'too-many', `It can go to ${MOST_RECIPIENTS} people at most.`);
  if (all.length === 0) {
    await tx.db.query('delete from month_page where business_id = $1', [businessId]);
    tx.note('month.mail', businessId, { recipients: 0 });
    return null;
  }
  await tx.db.query(
    `insert into month_page (business_id, day, recipients, still, next_at, person_id) values ($1, $2, $3, '[]', $4, $5)
     on conflict (business_id) do update set day = excluded.day, recipients = excluded.recipients, next_at = excluded.next_at, person_id = excluded.person_id, trouble = ''`,
    [businessId, day, JSON.stringify(all), new Date(nextMonthPage(tx.runtime.now(), day, timeZone)), personId],
  );
  tx.note('month.mail', businessId, { day, recipients: all.length });
  return getMonthMail(tx);
}

/** The page of a month as the text of an email; `address` is where the business's pages are. */
export const monthMailText = (
  { name, sentences }: MonthView,
  business: string,
  address: string,
  month: string,
): string =>
  [
    `${business}, ${name}`,
    ...sentences.map(({ text, href }) => `${text}\n${address}${href}`),
    `The whole page, to print or as a file: ${address}/results/month?month=${month}`,
  ].join('\n\n');
