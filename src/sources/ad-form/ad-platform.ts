import type { ReadValues } from '../../core/described/read.ts';
import type { DescribedAccount } from '../../gateways/described/described-caller.ts';
import { askService, hasCall } from '../ask-service.ts';
import { jsonRaw, type SourcePorts, type Trouble, trouble } from '../source-module.ts';
import { FETCHED } from './definition.ts';

export interface PlatformForm {
  id: string;
  name: string;
  page: { id: string; name: string };
  live: boolean;
}

/** What the next entries are asked for with: as the platform's description says how it is gone on. */
export type Ask = Record<string, string>;

/** How far entries have been fetched: what the next are asked for with, and the ids of those that came where all are asked for each time. */
export interface Place {
  ask: Ask;
  seen: string[];
}

/** Most entries that are known again, where a platform can only be asked for all of them. */
const MOST_SEEN = 5000;

/** Whether entries can be gone on with from another day: by a cursor, or by the newest so far. Else all are asked for, and known again by their ids. */
const resumes = ({ description }: DescribedAccount): boolean =>
  ['cursor', 'since'].includes(description.calls.entries?.paging.way ?? '');

/** How far it is after a batch. With more than can be known again old entries would come in as new ones: then it goes no further. */
export function past(
  account: DescribedAccount,
  { ask, seen }: Place,
  { entries, next }: Pick<Entries, 'entries' | 'next'>,
  more: boolean,
): ({ ok: true } & Place) | Trouble {
  if (resumes(account)) return { ok: true, ask: next ?? ask, seen: [] };
  const all = [...new Set([...seen, ...entries.map(({ id }) => textOf(id))])];
  return all.length > MOST_SEEN
    ? trouble(
        `${account.who} can only be asked for all its entries, and there are more than ${MOST_SEEN} of them: old ones could not be told from new ones. Say in its description how it is gone on with: by a cursor, or by the newest so far.`,
      )
    : { ok: true, ask: more ? (next ?? ask) : {}, seen: all };
}

/** What a platform still holds after a cursor, where it says so. */
export interface Held {
  count: number;
  /** ISO 8601; null where nothing runs out. */
  firstExpiresAt: string | null;
}

export interface Entries {
  ok: true;
  entries: ReadValues[];
  /** Null at the end. */
  next: Ask | null;
  held: Held | null;
}

/** A line of what ads cost, as it is told; every value a text. */
export type CostTold = Record<
  'day' | 'campaign' | 'adSet' | 'ad' | 'cost' | 'currency' | 'site' | 'impressions' | 'clicks',
  string
>;

const BATCH = 100;
/** More than this counts as this many: it is only shown. */
const MOST_HELD = 1_000_000_000;
/** Most pages of forms, and of costs, that are asked for: more is no account of anybody's. */
const MOST_PAGES = 500;

const textOf = (value: unknown): string => (typeof value === 'string' ? value : '');

/** Every item of a list there, page after page. */
async function all(
  ports: SourcePorts,
  account: DescribedAccount,
  call: string,
  given: Ask,
): Promise<{ ok: true; items: ReadValues[] } | Trouble> {
  const items: ReadValues[] = [];
  let ask: Ask = {};
  for (let page = 0; page < MOST_PAGES; page++) {
    const got = await askService(ports, account, call, { ...given, ...ask });
    if (!got.ok) return got;
    items.push(...got.items);
    if (!got.next || got.items.length === 0) return { ok: true, items };
    ask = got.next;
  }
  return trouble(`${account.who} gives page after page and comes to no end.`);
}

/** An ad platform, asked by its description. */
export const adPlatform = {
  /** None where its description has no call for them. */
  async forms(ports: SourcePorts, account: DescribedAccount): Promise<{ ok: true; forms: PlatformForm[] } | Trouble> {
    if (!hasCall(account, 'forms')) return { ok: true, forms: [] };
    const got = await all(ports, account, 'forms', {});
    if (!got.ok) return got;
    const forms = got.items.map(({ id, name, page, page_name, live }) => ({
      id: textOf(id),
      name: textOf(name) || textOf(id),
      page: { id: textOf(page), name: textOf(page_name) || textOf(page) },
      live: live !== 'false',
    }));
    return { ok: true, forms: forms.filter(({ id }) => id !== '') };
  },

  /** Entries of a form, oldest first; `ask` says after which. */
  async entries(
    ports: SourcePorts,
    account: DescribedAccount,
    form: string,
    ask: Ask,
    limit = BATCH,
  ): Promise<Entries | Trouble> {
    const got = await askService(ports, account, 'entries', { form, limit: String(limit), ...ask });
    if (!got.ok) return got;
    const { held, first_expires } = got.besides;
    return {
      ok: true,
      entries: got.items,
      next: got.next,
      held:
        textOf(held) === ''
          ? null
          : {
              count: Math.max(0, Math.min(Math.floor(Number(held)), MOST_HELD)),
              firstExpiresAt: textOf(first_expires) || null,
            },
    };
  },

  /** The newest entry there is, and what those behind it are asked for with. */
  async newest(
    ports: SourcePorts,
    account: DescribedAccount,
    form: string,
  ): Promise<{ ok: true; entry: ReadValues | null; behind: Place } | Trouble> {
    if (hasCall(account, 'newest')) {
      const got = await askService(ports, account, 'newest', { form });
      if (!got.ok) return got;
      const cursor = textOf(got.besides.cursor);
      return { ok: true, entry: got.items.at(-1) ?? null, behind: { ask: cursor === '' ? {} : { cursor }, seen: [] } };
    }
    // It cannot be asked for the last one: what there is now is gone past.
    let entry: ReadValues | null = null;
    let place: Place = { ask: {}, seen: [] };
    for (let page = 0; page < MOST_PAGES; page++) {
      const got = await this.entries(ports, account, form, place.ask);
      if (!got.ok) return got;
      entry = got.entries.at(-1) ?? entry;
      const more = got.next !== null && got.entries.length > 0;
      const reached = past(account, place, got, more);
      if (!reached.ok) return reached;
      place = { ask: reached.ask, seen: reached.seen };
      if (!more) return { ok: true, entry, behind: place };
    }
    return trouble(`${account.who} gives page after page and comes to no end.`);
  },

  /** What the ads cost day by day. Days are "YYYY-MM-DD", both counted. */
  async costs(
    ports: SourcePorts,
    account: DescribedAccount,
    days: { from: string; to: string },
  ): Promise<{ ok: true; costs: CostTold[] } | Trouble> {
    const got = await all(ports, account, 'costs', days);
    if (!got.ok) return got;
    return {
      ok: true,
      costs: got.items.map(({ day, campaign, ad_set, ad, cost, currency, site, impressions, clicks }) => ({
        ...{ day: textOf(day), campaign: textOf(campaign), adSet: textOf(ad_set), ad: textOf(ad) },
        ...{ cost: textOf(cost), currency: textOf(currency), site: textOf(site) },
        ...{ impressions: textOf(impressions), clicks: textOf(clicks) },
      })),
    };
  },
};

/** An entry that was fetched, as it is kept. */
export const asFetched = ({ raw, ...values }: ReadValues) => jsonRaw({ kind: FETCHED, values, item: raw });
