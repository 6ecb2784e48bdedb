import { readNumber } from '../fields/read-number.ts';
import { readDate } from '../time/read-date.ts';

/** What advertising cost on a day, as a file or a service tells it. Names are empty where it says none. */
export interface CostLine {
  /** "YYYY-MM-DD". */
  day: string;
  site: string;
  campaign: string;
  adSet: string;
  ad: string;
  /** Hundredths of `currency`. */
  cost: number;
  /** ISO 4217. */
  currency: string;
  impressions: number | null;
  clicks: number | null;
}

export const COST_COLUMNS = {
  day: 'Day',
  campaign: 'Campaign',
  adSet: 'Ad set',
  ad: 'Ad',
  cost: 'Cost',
  currency: 'Currency',
  site: 'Site source',
  impressions: 'Impressions',
  clicks: 'Clicks',
} as const;
export type CostColumn = keyof typeof COST_COLUMNS;
/** Without these there is nothing to be kept. */
export const NEEDED: readonly CostColumn[] = ['day', 'campaign', 'cost'];

/** Which column of a file, counted from 0, is which; -1 for none. */
export type CostMapping = Record<CostColumn, number>;

/** Words columns of cost are called by, the surest first; in lower case, without what is in brackets. Common practice, no source. */
const CALLED: Readonly<Record<CostColumn, string[]>> = {
  day: ['day', 'date', 'reporting starts', 'from', 'day of'],
  campaign: ['campaign', 'campaign name', 'utm_campaign'],
  adSet: ['ad set', 'ad set name', 'adset', 'ad group', 'group', 'utm_term'],
  ad: ['ad', 'ad name', 'advert', 'utm_content', 'creative'],
  cost: ['cost', 'costs', 'spend', 'spent', 'amount spent', 'amount', 'total cost'],
  currency: ['currency', 'currency code', 'account currency'],
  site: ['site source', 'site', 'source', 'platform', 'utm_source', 'network', 'channel'],
  impressions: ['impressions', 'impr.', 'views', 'shown'],
  clicks: ['clicks', 'link clicks'],
};
const plain = (name: string): string =>
  name
    .toLowerCase()
    .replace(/\([^()]*\)/g, ' ')
    .replace(/[_-]+/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();

/** Which column is probably which, by what they are called. */
export function guessCostColumns(names: readonly string[]): CostMapping {
  const called = names.map(plain);
  const taken = new Set<number>();
  const mapping = {} as CostMapping;
  for (const column of Object.keys(CALLED) as CostColumn[]) {
    const found = CALLED[column].map((word) => called.findIndex((name, i) => !taken.has(i) && name === plain(word)));
    mapping[column] = found.find((i) => i >= 0) ?? -1;
    if (mapping[column] >= 0) taken.add(mapping[column]);
  }
  return mapping;
}

/** A currency that stands in the name of a column: "Amount spent (EUR)"; empty where none does. */
const currencyIn = (name: string | undefined): string => /\(([A-Z]{3})\)/.exec(name ?? '')?.[1] ?? '';

export interface ReadCosts {
  lines: CostLine[];
  /** Rows that were left out: where they stand in the file, counted from 1, and why. */
  left: { row: number; why: string }[];
}

const MOST_NAME = 200;
const name = (cell: string | undefined) => (cell ?? '').trim().replace(/\s+/g, ' ').slice(0, MOST_NAME);
/** More than anybody spends on an ad in a day, in hundredths: what is above it is another number. */
const MOST_COST = 100_000_000_00;

/**
 * Rows of a file as costs. `firstRow` is the place of the first of them in the file. Rows of the same day, names and currency are added up; totals
 * (without a day) and empty rows are left out in silence.
 */
export function readCosts(
  rows: readonly (readonly string[])[],
  mapping: CostMapping,
  told: { country: string; currency: string; names: readonly string[]; firstRow: number },
): ReadCosts {
  const sums = new Map<string, CostLine>();
  const left: ReadCosts['left'] = [];
  const inName = currencyIn(told.names[mapping.cost]);
  for (const [i, row] of rows.entries()) {
    const cell = (column: CostColumn) => (mapping[column] < 0 ? '' : (row[mapping[column]] ?? '').trim());
    if (cell('day') === '' || row.every((one) => one.trim() === '')) continue;
    const out = (why: string) => left.push({ row: told.firstRow + i, why });
    const day = readDate(cell('day'), told.country);
    const cost = cell('cost') === '' ? 0 : readNumber(cell('cost'));
    const currency = (cell('currency') || inName || told.currency).toUpperCase();
    if (day === null) out(`“${cell('day').slice(0, 40)}” is no date`);
    else if (cost === null) out(`“${cell('cost').slice(0, 40)}” is no amount`);
    else if (cost < 0) out('A cost below 0 is not taken');
    else if (cost * 100 > MOST_COST) out('The cost is larger than can be kept: is it the right column?');
    else if (!/^[A-Z]{3}$/.test(currency)) out(`“${currency.slice(0, 20)}” is no currency: three letters, as in EUR`);
    else {
      const line: CostLine = {
        ...{
          day,
          site: name(cell('site')),
          campaign: name(cell('campaign')),
          adSet: name(cell('adSet')),
          ad: name(cell('ad')),
        },
        ...{
          cost: Math.round(cost * 100),
          currency,
          impressions: whole(cell('impressions')),
          clicks: whole(cell('clicks')),
        },
      };
      const key = costKey(line);
      const sum = sums.get(key);
      sums.set(
        key,
        sum
          ? {
              ...sum,
              cost: sum.cost + line.cost,
              impressions: plus(sum.impressions, line.impressions),
              clicks: plus(sum.clicks, line.clicks),
            }
          : line,
      );
    }
  }
  return { lines: [...sums.values()], left };
}

/** What makes two lines the same. */
export const costKey = ({ day, site, campaign, adSet, ad, currency }: CostLine): string =>
  JSON.stringify([day, site, campaign, adSet, ad, currency]);

const plus = (a: number | null, b: number | null): number | null => (a === null ? b : b === null ? a : a + b);

function whole(cell: string): number | null {
  const n = cell === '' ? null : readNumber(cell);
  return n === null || n < 0 || n > 2_000_000_000 ? null : Math.round(n);
}
