import { z } from 'zod';
import { type Alike, alikeNames } from '../../core/results/alike.ts';
import { LINK_MARK_KEYS, type LinkMark } from '../../core/results/marked-link.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import type { AskedResults } from './asked.ts';

/** A name as contacts came with it. */
export interface NameRow {
  mark: LinkMark;
  name: string;
  /** Contacts in these days. */
  n: number;
  /** Under which name it is shown; its own where it is shown as it came. */
  shownAs: string;
  /** It is one of the business's own words: said to be right, or told by costs. */
  known: boolean;
}

export interface NamesView {
  period: AskedResults['period'];
  days: AskedResults['days'];
  names: NameRow[];
  alike: (Alike & { mark: LinkMark })[];
  /** Pages people landed on, or came from, by a link that says nothing of itself; contacts in these days. */
  unmarked: { page: string; from: string; n: number }[];
  /** The business's own words, by mark, for links. */
  words: Record<LinkMark, string[]>;
}

const COLUMN: Readonly<Record<LinkMark, string>> = {
  ...{ site: 'site', medium: 'medium', campaign: 'campaign', adSet: 'ad_set', ad: 'ad' },
};

/** The names contacts come with: which are used, which look like one in two spellings, and which links carry none. */
export async function getNames(use: Use, asked: AskedResults): Promise<NamesView> {
  const { businessId } = use.actor;
  const { from, to } = asked.days;
  const [used, told, costs, unmarked] = await Promise.all([
    use.db.query<{ mark: LinkMark; name: string; n: number }>(
      LINK_MARK_KEYS.map(
        (mark) =>
          `select '${mark}' as mark, o.${COLUMN[mark]} as name, (sum(d.by_even) / 1000000)::float as n from result_day d join origin o on o.id = d.origin_id
           where d.business_id = $1 and d.basis = 'happened' and d.kind = 'lead' and d.day between $2 and $3 and o.${COLUMN[mark]} <> '' group by 2`,
      ).join(' union all '),
      [businessId, from, to],
    ),
    use.db.query<{ mark: LinkMark; name: string; shown_as: string }>(
      'select mark, name, shown_as from mark_name where business_id = $1',
      [businessId],
    ),
    use.db.query<{ campaign: string; ad_set: string; ad: string; site: string }>(
      'select distinct campaign, ad_set, ad, site from ad_cost where business_id = $1',
      [businessId],
    ),
    use.db.query<{ page: string; from: string; n: number }>(
      `select coalesce(t.where_from ->> 'landing_page', '') as page, coalesce(substring(t.where_from ->> 'referrer' from '^https?://(?:www\\.)?([^/?#]+)'), '') as from, count(*)::int as n
       from touch t where t.business_id = $1 and t.at >= $2::date and t.at < $3::date + 1 and t.where_from ? 'landing_page'
         and not t.where_from ?| array['utm_source', 'utm_campaign', 'utm_medium', 'campaign', 'click_id'] group by 1, 2 order by 3 desc limit 30`,
      [businessId, from, to],
    ),
  ]);
  const shownAs = new Map(told.rows.map((row) => [`${row.mark} ${row.name}`, row.shown_as]));
  const own = {} as Record<LinkMark, Set<string>>;
  for (const mark of LINK_MARK_KEYS)
    own[mark] = new Set([
      ...costs.rows.map((row) => row[COLUMN[mark] as 'campaign'] ?? ''),
      ...told.rows.filter((row) => row.mark === mark).map((row) => row.shown_as),
    ]);
  const names = used.rows
    .map(
      (row): NameRow => ({
        ...row,
        n: Math.round(row.n),
        shownAs: shownAs.get(`${row.mark} ${row.name}`) ?? row.name,
        known: own[row.mark].has(row.name),
      }),
    )
    .sort((a, b) => b.n - a.n || (a.name < b.name ? -1 : 1));
  return {
    ...{ period: asked.period, days: asked.days, names, unmarked: unmarked.rows },
    alike: LINK_MARK_KEYS.flatMap((mark) =>
      alikeNames(
        names
          // What has been put right, or said to be right, is asked no more.
          .filter((row) => row.mark === mark && !(shownAs.has(`${mark} ${row.name}`) && row.shownAs !== row.name))
          .map(({ name, n }) => ({ name, n })),
      )
        .filter(({ name }) => !shownAs.has(`${mark} ${name}`))
        .map((one) => ({ ...one, mark })),
    ),
    words: Object.fromEntries(
      LINK_MARK_KEYS.map((mark) => [mark, [...own[mark]].filter((name) => name !== '').sort()]),
    ) as NamesView['words'],
  };
}

const Name = z.string().trim().min(1, 'Put in a name').max(200, 'That name is too long');
export const ShownName = z.object({
  mark: z.enum(LINK_MARK_KEYS as [LinkMark, ...LinkMark[]]),
  name: Name,
  shownAs: Name,
});

/**
 * Shows a name under another; under its own, it is said to be right. Names that were shown under it go along. What came stays as it came.
 */
export async function showNameAs(tx: Write, { mark, name, shownAs }: z.output<typeof ShownName>): Promise<void> {
  const { businessId } = tx.actor;
  const { rows } = await tx.db.query<{ shown_as: string }>(
    'select shown_as from mark_name where business_id = $1 and mark = $2 and name = $3',
    [businessId, mark, shownAs],
  );
  const end = rows[0]?.shown_as ?? shownAs;
  if (end === name && shownAs !== name)
    throw new Refusal(409, 'circle', `“${shownAs}” is shown as “${name}” already. Take that back first.`);
  await tx.db.query(
    `insert into mark_name (business_id, mark, name, shown_as) values ($1, $2, $3, $4) on conflict (business_id, mark, name) do update set shown_as = excluded.shown_as`,
    [businessId, mark, name, end],
  );
  await tx.db.query(
    'update mark_name set shown_as = $4 where business_id = $1 and mark = $2 and shown_as = $3 and name <> $3',
    [businessId, mark, name, end],
  );
  tx.note('names.show_as', `${mark} ${name}`, { shownAs: end });
  tx.ring();
}

export const OneName = ShownName.pick({ mark: true, name: true });

/** Shows a name as it came again. */
export async function showNameAsItCame(tx: Write, { mark, name }: z.output<typeof OneName>): Promise<void> {
  await tx.db.query('delete from mark_name where business_id = $1 and mark = $2 and name = $3', [
    tx.actor.businessId,
    mark,
    name,
  ]);
  tx.note('names.as_it_came', `${mark} ${name}`);
  tx.ring();
}
