import { z } from 'zod';
import { CREDIT } from '../../core/results/credits.ts';
import type { MarkKey } from '../../core/results/origin.ts';
import { OUTCOME_WORDS } from '../../core/results/outcomes.ts';
import { SORTED_BY } from '../../core/results/sortings.ts';
import { leadName } from '../leads/lead-name.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import type { AskedResults } from './asked.ts';
import { originsOf, shown, shownNames } from './names.ts';
import { thingOf, thingPath } from './things.ts';
import { goalsOf } from './where-from.ts';

/** One outcome behind a number. */
export interface BehindRow {
  /** Null for who has been erased: they are counted, and are nobody. */
  leadId: string | null;
  name: string;
  /** What happened, in words. */
  what: string;
  /** ISO 8601. */
  at: string;
  /** Of one; what this place is credited with of it. */
  share: number;
  /** Hundredths. */
  money: number;
  currency: string;
  /** Contacts they had before it, and how many of them were by this place. */
  contacts: number;
}

export interface BehindView {
  rows: BehindRow[];
  /** All of it, also what is not shown. */
  total: number;
  outcomes: number;
}

/** Named in one look; the rest is counted. */
const MOST = 200;

const Which = z.object({
  kind: z.string().max(60),
  path: z.string().max(2000).default('[]'),
});
const Path = z.array(z.string().max(400)).max(4);

/** What a number is of: one kind, or several together. */
const KINDS: Readonly<Record<string, string[]>> = { sales: ['won', 'ordered'], money: ['won', 'ordered', 'refunded'] };

/** The people behind a number of the results: who, what of them counted, and how much of it this place is credited with. */
export async function getBehind(use: Use, asked: AskedResults, query: URLSearchParams): Promise<BehindView> {
  const read = Which.safeParse(Object.fromEntries(query));
  const path = Path.safeParse(read.success ? fromJson(read.data.path) : null);
  if (!read.success || !path.success) throw new Refusal(422, 'not-understood', 'That is no number of the results.');
  const { kind } = read.data;
  const { days, by, basis, model } = asked;
  const [origins, names, goals] = await Promise.all([originsOf(use), shownNames(use), goalsOf(use)]);
  const keys = SORTED_BY[by].path.slice(0, path.data.length);
  const thing = await thingOf(use, by, 8);
  const ids = [...origins.values()]
    .filter((origin) =>
      keys.every((key, i) => {
        if (thing) return true;
        return (
          (key === 'source' ? origin.source : shown(names, key as MarkKey, origin[key as MarkKey])) === path.data[i]
        );
      }),
    )
    .map(({ id }) => id);
  const day = basis === 'came' ? 'c.came_day' : 'c.day';
  // Of a thing everything on the way down: all of those whose own way begins so.
  const named =
    thing && path.data.length > 0
      ? `and ${thing.name} = any($6) and $7::int > 0`
      : 'and $6::text[] is not null and $7::int >= 0';
  const from = `from result_credit c join lead_result r on r.id = c.result_id ${thing?.join ?? ''} left join lead l on l.id = r.lead_id
    where c.business_id = $1 and ${day} between $2 and $3 and c.kind = any($4) and c.origin_id = any($5) ${named} and (c.by_${model} > 0 or c.money_${model} <> 0)`;
  const all = thing
    ? [...new Set(['', ...((thing.values[1] as string[] | undefined) ?? []), path.data.at(-1) ?? ''])]
    : [];
  const meant = all.filter((name) => path.data.every((part, i) => thingPath(by, name)[i] === part));
  const values = [
    ...[use.actor.businessId, days.from, days.to, KINDS[kind] ?? [kind], ids, meant, path.data.length],
    ...(thing?.values ?? []),
  ];
  const [rows, totals] = await Promise.all([
    use.db.query<{
      lead_id: string | null;
      first_name: string | null;
      last_name: string | null;
      email: string | null;
      phone: string | null;
      kind: string;
      at: Date;
      share: number;
      money: string;
      currency: string;
      contacts: number;
    }>(
      `select r.lead_id, l.first_name, l.last_name, l.email, l.phone, c.kind, c.at, c.by_${model} as share, c.money_${model} as money, c.currency,
         (select count(*)::int from touch t where t.lead_id = r.lead_id and t.at <= c.at) as contacts ${from} order by c.at desc, c.result_id limit ${MOST}`,
      values,
    ),
    use.db.query<{ n: number; credits: string }>(
      `select count(*)::int as n, coalesce(sum(c.by_${model}), 0) as credits ${from}`,
      values,
    ),
  ]);
  const words = new Map<string, string>([
    ...Object.entries(OUTCOME_WORDS),
    ...goals.map(({ kind, name }) => [kind, name] as const),
  ]);
  return {
    total: Number(totals.rows[0]!.credits) / CREDIT,
    outcomes: totals.rows[0]!.n,
    rows: rows.rows.map((row) => ({
      leadId: row.lead_id,
      name:
        row.lead_id === null
          ? 'Somebody who was erased'
          : leadName({
              ...{ first_name: row.first_name ?? '', last_name: row.last_name ?? '' },
              ...{ email: row.email ?? '', phone: row.phone ?? '' },
            }),
      what: ONE[row.kind] ?? words.get(row.kind) ?? 'Something that is counted no more',
      at: row.at.toISOString(),
      share: row.share / CREDIT,
      money: Number(row.money),
      currency: row.currency,
      contacts: row.contacts,
    })),
  };
}

/** One of each, in words. */
const ONE: Readonly<Record<string, string>> = {
  lead: 'Came in',
  answered: 'Was answered',
  in_five: 'Was answered within 5 minutes',
  booked: 'Booked an appointment',
  ordered: 'Ordered',
  refunded: 'Got money back',
};

function fromJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
