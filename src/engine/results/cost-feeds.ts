import type pg from 'pg';
import { z } from 'zod';
import { retryDelayMs } from '../../core/delivery/backoff.ts';
import { storableText } from '../../core/fields/field.ts';
import { readAs } from '../../core/read-as.ts';
import { readCosts } from '../../core/results/costs.ts';
import { dayOf } from '../../core/time/day-of.ts';
import { currencyOf } from '../../core/words/money.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import { adPlatform, type CostTold } from '../../sources/ad-form/ad-platform.ts';
import type { Bell } from '../bell.ts';
import type { SourcePortsFactory } from '../intake/source-ports.ts';
import { PlainLoop } from '../loop.ts';
import { keepCosts } from './costs.ts';

const DAY = 86_400_000;
/** Twice a day is often enough for what is counted by days. */
const EVERY_MS = DAY / 2;
/** Ad platforms put the cost of the last days right afterwards: these are asked for each time, and at first as many as are looked at usually. */
const AGAIN_DAYS = 7;
const FIRST_DAYS = 90;
const LEASE_SECONDS = 300;
const TROUBLE_RETRY = { baseMs: 60_000, capMs: 6 * 60 * 60_000, giveUpAfterMs: Number.POSITIVE_INFINITY };

interface Feed {
  id: string;
  business_id: string;
  business_name: string;
  country: string;
  time_zone: string;
  name: string;
  connection_id: string;
  failures: number;
  last_at: Date | null;
}

/** What is pushed to a feed's address; docs/gateways.md. */
const Pushed = z.object({
  costs: z
    .array(
      z.object({
        day: z.string().max(40),
        campaign: z.string().max(500),
        adSet: z.string().max(500).default(''),
        ad: z.string().max(500).default(''),
        site: z.string().max(500).default(''),
        cost: z.union([z.number(), z.string().max(40)]),
        currency: z.string().max(10).default(''),
        impressions: z.number().nullable().default(null),
        clicks: z.number().nullable().default(null),
      }),
    )
    .min(1, 'There is no line in it')
    .max(5000, 'Send at most 5,000 lines at once'),
});

export type PushedAnswer = { status: 200; lines: number } | { status: 404 | 422; problem: string };

/** Fetches what advertising cost from ad platforms, and takes what is pushed. */
export class CostFeeds {
  readonly loop: PlainLoop;

  constructor(
    private readonly parts: {
      pool: pg.Pool;
      sourcePorts: SourcePortsFactory;
      bell: Bell;
      now: () => number;
      random: () => number;
    },
  ) {
    this.loop = new PlainLoop(
      'costs',
      () => this.fetchDue(),
      'exists (select from cost_feed where next_at <= now() and (lease_until is null or lease_until < now()))',
    );
  }

  private async fetchDue(): Promise<void> {
    while (!this.loop.stopping) {
      const { rows } = await this.parts.pool.query<Feed>(
        `update cost_feed f set lease_until = now() + ${LEASE_SECONDS} * interval '1 s' from business b
         where b.id = f.business_id and f.id = (select id from cost_feed where next_at <= now() and (lease_until is null or lease_until < now()) order by next_at limit 1 for update skip locked)
         returning f.id, f.business_id, b.name as business_name, b.country, b.time_zone, f.name, f.connection_id, f.failures, f.last_at`,
      );
      if (!rows[0]) return;
      await this.fetch(rows[0]);
    }
  }

  private async fetch(feed: Feed): Promise<void> {
    const { pool, sourcePorts, bell, now } = this.parts;
    const ports = sourcePorts.of(feed.business_id, feed.business_name);
    const account = await ports.describedAccount(feed.connection_id);
    if (!account)
      return this.note(
        feed,
        'The connection it is fetched by has been removed. Remove this, or connect the ad platform again.',
        null,
      );
    const to = dayOf(now(), feed.time_zone);
    const from = dayOf(now() - (feed.last_at ? AGAIN_DAYS : FIRST_DAYS) * DAY, feed.time_zone);
    const got = await adPlatform.costs(ports, account, { from, to });
    if (!got.ok) return this.note(feed, got.problem, got.retryAfterMs);
    const { lines, left } = told(feed, got.costs);
    await inTransaction(pool, async (client) => {
      // What it told of these days before and tells no more, it has taken back.
      await client.query('delete from ad_cost where business_id = $1 and via = $2 and day between $3 and $4', [
        feed.business_id,
        feed.name,
        from,
        to,
      ]);
      await keepCosts(client, feed.business_id, lines, { via: feed.name, at: now() });
      await client.query(
        `update cost_feed set next_at = $2, lease_until = null, failures = 0, trouble = $5, last_at = $3, last_lines = $4 where id = $1`,
        [
          ...[feed.id, new Date(now() + EVERY_MS), new Date(now()), lines.length],
          left.length === 0
            ? ''
            : `${left.length} of its lines say no day, amount or currency that can be read, and were left out.`,
        ],
      );
    });
    bell.ring(feed.business_id);
  }

  private async note(feed: Feed, problem: string, askedMs: number | null): Promise<void> {
    const { pool, bell, now, random } = this.parts;
    const wait = retryDelayMs(TROUBLE_RETRY, feed.failures, askedMs, random());
    await pool.query(
      'update cost_feed set next_at = $2, lease_until = null, failures = failures + 1, trouble = $3 where id = $1',
      [feed.id, new Date(now() + Math.max(wait, 30_000)), problem],
    );
    bell.ring(feed.business_id);
  }

  /** Takes what somebody sends to the address of a feed. */
  async receive(key: string, body: Buffer): Promise<PushedAnswer> {
    const { pool, bell, now } = this.parts;
    const { rows } = await pool.query<Feed>(
      'select f.id, f.business_id, b.country, f.name from cost_feed f join business b on b.id = f.business_id where f.key = $1 and f.connection_id is null',
      [key],
    );
    const feed = rows[0];
    if (!feed)
      return { status: 404, problem: 'No costs are awaited at this address. Copy it again from Results, Costs.' };
    let sent: unknown;
    try {
      sent = JSON.parse(storableText(body.toString('utf8')));
    } catch {
      return { status: 422, problem: 'The body is no JSON. Send { "costs": [ … ] } as docs/gateways.md has it.' };
    }
    const read = readAs(Pushed, sent);
    if (!read.success) {
      const issue = read.error.issues[0]!;
      return { status: 422, problem: `${issue.path.join('.') || 'The body'}: ${issue.message}` };
    }
    const { lines, left } = told(feed, read.data.costs);
    // All or nothing: half a day would be taken for the whole.
    if (left[0]) return { status: 422, problem: `costs.${left[0].row - 1}: ${left[0].why}` };
    await inTransaction(pool, async (client) => {
      await keepCosts(client, feed.business_id, lines, { via: feed.name, at: now() });
      await client.query(`update cost_feed set last_at = $2, last_lines = $3, trouble = '' where id = $1`, [
        feed.id,
        new Date(now()),
        lines.length,
      ]);
    });
    bell.ring(feed.business_id);
    return { status: 200, lines: lines.length };
  }
}

type Sent = CostTold | z.output<typeof Pushed>['costs'][number];

/** Lines as a service tells them, read by the same rules as those of a file. */
function told({ country }: Pick<Feed, 'country'>, costs: readonly Sent[]) {
  const columns = ['day', 'campaign', 'adSet', 'ad', 'cost', 'currency', 'site', 'impressions', 'clicks'] as const;
  const mapping = Object.fromEntries(columns.map((column, i) => [column, i])) as Record<
    (typeof columns)[number],
    number
  >;
  return readCosts(
    costs.map((line) => columns.map((column) => String(line[column] ?? ''))),
    mapping,
    { country, currency: currencyOf(country), names: [], firstRow: 1 },
  );
}
