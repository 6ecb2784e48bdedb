import { Temporal } from 'temporal-polyfill';
import { compareShares, type Share } from '../statistics/two-shares.ts';
import { wilson } from '../statistics/wilson.ts';
import { atWallClock, wallClock } from '../time/zone.ts';
import { moneyWords } from '../words/money.ts';

/** Amounts by currency, in hundredths. */
type Sums = Readonly<Record<string, number>>;

/** A campaign in a month. */
export interface MonthCampaign {
  /** "" where none was marked. */
  name: string;
  leads: number;
  booked: number;
  sales: number;
  money: Sums;
  cost: Sums;
  /** Of those who came by it in that month, who has booked until now. */
  rate: Share;
}

/** What a month came to. Counts are of what happened in it. */
export interface MonthFigures {
  leads: number;
  leadsBefore: number;
  leadsChanged: 'up' | 'down' | null;
  inTime: Share;
  booked: number;
  bookedBefore: number;
  bookedChanged: 'up' | 'down' | null;
  kept: number;
  sales: number;
  money: Sums;
  moneyBefore: Sums;
  cost: Sums;
  /** What went back in that month; the part of it that was of sales of earlier months; and what has gone back since of the month's own sales. Not negative. */
  back: Sums;
  backOfEarlier: Sums;
  backSince: Sums;
  campaigns: MonthCampaign[];
}

export interface MonthSentence {
  text: string;
  /** Where the figures behind it stand, without the days. */
  at: 'where-from' | 'replies' | 'costs';
}

export interface MonthWords {
  locale: string;
  /** ISO 4217, the business's own. */
  currency: string;
  /** "in October". */
  before: string;
}

const sumsText = (sums: Sums, { locale, currency }: MonthWords): string =>
  Object.entries(sums)
    .filter(([, sum]) => sum !== 0)
    .sort(([a], [b]) => Number(b === currency) - Number(a === currency) || (a < b ? -1 : 1))
    .map(([currency, sum]) => moneyWords(sum % 100 === 0 ? sum / 100 : (sum / 100).toFixed(2), currency, locale))
    .join(' and ');

const number = (n: number, { locale }: MonthWords) =>
  new Intl.NumberFormat(locale, { maximumFractionDigits: 0 }).format(n);
const people = (n: number, words: MonthWords) => `${number(n, words)} ${Math.round(n) === 1 ? 'person' : 'people'}`;
const times = (n: number, what: string, words: MonthWords) =>
  `${number(n, words)} ${what}${Math.round(n) === 1 ? '' : 's'}`;

/** "more than in October (41)", "about as many as in October (41)": a difference that may be chance is none. */
const against = (changed: 'up' | 'down' | null, before: number, words: MonthWords): string =>
  before === 0
    ? ''
    : `, ${changed === 'up' ? 'more than' : changed === 'down' ? 'fewer than' : 'about as many as'} ${words.before} (${number(before, words)})`;

/** The five sentences that matter: who came, how fast they were answered, what brought appointments, what did not, and what came in. */
export function monthSentences(figures: MonthFigures, words: MonthWords): MonthSentence[] {
  return [
    {
      at: 'where-from',
      text: `${people(figures.leads, words)} came in${against(figures.leadsChanged, figures.leadsBefore, words)}.`,
    },
    { at: 'replies', text: answered(figures.inTime) },
    { at: 'where-from', text: broughtMost(figures, words) },
    { at: 'costs', text: broughtLeast(figures, words) },
    { at: 'where-from', text: cameIn(figures, words) },
  ];
}

function answered({ did, of }: Share): string {
  const range = wilson({ did, of });
  if (!range) return 'Nobody waited for an answer.';
  if (did === of) return `All ${of} who came in by themselves were answered within 5 minutes.`;
  return `${did} of ${of} who came in by themselves were answered within 5 minutes (${Math.round((did * 100) / of)} %).`;
}

const named = ({ name }: MonthCampaign) => name !== '';

function broughtMost({ campaigns, booked, bookedBefore, bookedChanged }: MonthFigures, words: MonthWords): string {
  const all = `${times(booked, 'appointment', words)} ${Math.round(booked) === 1 ? 'was' : 'were'} booked${against(bookedChanged, bookedBefore, words)}`;
  const best = campaigns
    .filter((one) => named(one) && one.booked >= 1)
    .toSorted((a, b) => b.booked - a.booked || b.sales - a.sales)[0];
  if (!best) return `${all}; none of them by a campaign.`;
  const cost = best.cost[words.currency] ?? 0;
  const each = cost > 0 ? `, at ${sumsText({ [words.currency]: Math.round(cost / best.booked) }, words)} each` : '';
  return `${all}; most by ${best.name}: ${number(best.booked, words)}${each}.`;
}

/** Fewer say nothing about a campaign. Our own choice. */
const ENOUGH = 20;

function broughtLeast({ campaigns }: MonthFigures, words: MonthWords): string {
  const paid = campaigns.filter((one) => named(one) && Object.values(one.cost).some((sum) => sum > 0));
  if (paid.length === 0) return 'Nothing is told of what advertising cost; put it in under Costs.';
  const all = campaigns.reduce((sum, { rate }) => ({ did: sum.did + rate.did, of: sum.of + rate.of }), {
    did: 0,
    of: 0,
  });
  const worse = paid
    .filter(({ rate }) => rate.of >= ENOUGH)
    .filter(
      ({ rate }) =>
        compareShares(rate, { did: all.did - rate.did, of: all.of - rate.of }).larger === 'b' ||
        (rate.did < 5 && tooFew(rate, all)),
    )
    .toSorted((a, b) => a.rate.did / a.rate.of - b.rate.did / b.rate.of)[0];
  if (!worse) return 'No campaign that cost something brought appointments less often than the others, beyond chance.';
  return `${worse.name} cost ${sumsText(worse.cost, words)} and brought ${people(worse.rate.of, words)}, of whom ${number(worse.rate.did, words)} booked: less often than the others, beyond chance.`;
}

/** Where next to nobody did, the usual test says nothing; the ranges of both lying apart does. */
function tooFew(rate: Share, all: Share): boolean {
  const [ours, rest] = [wilson(rate), wilson({ did: all.did - rate.did, of: all.of - rate.of })];
  return ours !== null && rest !== null && ours.high < rest.low;
}

function cameIn(figures: MonthFigures, words: MonthWords): string {
  const { sales, money, moneyBefore, back, backOfEarlier, backSince } = figures;
  if (sales === 0 && sumsText(back, words) === '') return 'Nothing was sold.';
  const before = sumsText(moneyBefore, words);
  const parts = [
    `${times(sales, 'sale', words)} came to ${sumsText(money, words) || 'nothing told'}${before ? ` (${words.before} ${before})` : ''}`,
  ];
  const gone = sumsText(back, words);
  const earlier = sumsText(backOfEarlier, words);
  if (gone)
    parts.push(
      `${gone} went back${earlier ? `, ${earlier === gone ? 'all' : earlier} of it of sales of earlier months` : ''}`,
    );
  const since = sumsText(backSince, words);
  if (since) parts.push(`${since} of the month’s sales has gone back since it ended`);
  return `${parts.join('; ')}.`;
}

/** Months are named by their first seven signs: "2026-10". */
export const monthOf = (day: string): string => day.slice(0, 7);
export const monthBefore = (month: string): string =>
  Temporal.PlainYearMonth.from(month).subtract({ months: 1 }).toString();
export const daysOfMonth = (month: string): { from: string; to: string } => {
  const whole = Temporal.PlainYearMonth.from(month);
  return { from: `${month}-01`, to: whole.toPlainDate({ day: whole.daysInMonth }).toString() };
};
export const monthName = (month: string, locale: string, year = true): string =>
  new Intl.DateTimeFormat(locale, {
    month: 'long',
    ...(year ? { year: 'numeric' as const } : {}),
    timeZone: 'UTC',
  }).format(Date.parse(`${month}-01T00:00Z`));

/** When the page of a month goes out: at eight in the morning by the business's clock. */
const SENT_AT = '08:00';

/** The next instant (milliseconds) after `now` that is on this day of a month, at the time it goes out. */
export function nextMonthPage(now: number, day: number, zone: string): number {
  const today = wallClock(now, zone).toPlainDate();
  const inThis = atWallClock(today.with({ day }), SENT_AT, zone);
  return inThis > now ? inThis : atWallClock(today.with({ day: 1 }).add({ months: 1 }).with({ day }), SENT_AT, zone);
}
