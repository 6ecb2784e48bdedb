import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import { MOST_ASKED_MS, retryDelayMs } from '../../core/delivery/backoff.ts';
import { durationWords } from '../../core/words/duration.ts';
import { log } from '../../log.ts';
import { sourceModules } from '../../sources/registry.ts';
import type { Pulled, Trouble } from '../../sources/source-module.ts';
import type { Bell } from '../bell.ts';
import { LeasedLoop, PlainLoop } from '../loop.ts';
import type { KnownSource, SettingsCache } from '../settings-cache.ts';
import type { Intake } from './intake.ts';
import type { SourcePortsFactory } from './source-ports.ts';

/** Sources fetched from at once in one process; nearly all of that time is waiting for the other side. */
const AT_ONCE = 16;
/** How often a source that is looked at at once is looked at when nobody says that something has changed, in milliseconds. */
const AT_ONCE_MS = 5000;
const UNFORESEEN = 'It could not be read, for a reason Pine Bell did not foresee and has written to its log.';
/** How long a lease holds, in seconds: longer than the longest call may take. A process that dies frees its leases so. */
const LEASE_SECONDS = 90;
/** Between tries while the other side is in trouble. Common practice, no source. */
const TROUBLE_RETRY = { baseMs: 15_000, capMs: 30 * 60_000, giveUpAfterMs: Number.POSITIVE_INFINITY };
/** Failures in a row before a person is told: one hiccup is nobody's business. */
const TELL_AFTER = 3;
/** A warning when entries will be thrown away by the service within this many days. */
const EXPIRY_DAYS = 7;

interface Leased {
  source_id: string;
  cursor: unknown;
  every_minutes: number;
  failures: number;
  trouble_since: Date | null;
}

const DUE_PULLS = `from pull p join source s on s.id = p.source_id
  where p.next_at <= now() and s.state = 'live' and (p.lease_until is null or p.lease_until < now())`;
/** The kinds of source whose changes are told, as SQL. */
const TOLD_OF_CHANGES =
  [...sourceModules.values()]
    .filter(({ puller }) => puller?.toldOfChanges)
    .map(({ definition }) => `'${definition.kind}'`)
    .join(', ') || 'null';

/**
 * Fetches from sources on their schedules. One row of `pull` per source is both schedule and queue entry: it is claimed by one
 * process at a time, and its cursor moves in the transaction that stores what was fetched, so that nothing is skipped and
 * nothing comes twice, whatever dies in between.
 */
export class Puller {
  readonly loop = new LeasedLoop<Leased>({
    name: 'fetching',
    atOnce: AT_ONCE,
    due: `exists (select ${DUE_PULLS})`,
    lease: (most) => this.lease(most),
    work: (leased) => this.fetchAll(leased),
    about: ({ source_id }) => ({ source: source_id }),
  });
  /** Sources that are being set up, where something was typed. */
  readonly samples = new PlainLoop(
    'samples',
    async () => {
      for (const id of await this.changedWhileWaiting()) await this.catchSample(id);
    },
    `exists (select from pull p join source s on s.id = p.source_id where p.next_at <= now() and s.state = 'waiting' and s.kind in (${TOLD_OF_CHANGES}))`,
  );

  constructor(
    private readonly parts: {
      pool: pg.Pool;
      settingsCache: SettingsCache;
      intake: Intake;
      sourcePorts: SourcePortsFactory;
      bell: Bell;
      holder: string;
      now: () => number;
      random: () => number;
    },
  ) {}

  /**
   * Whoever is told of something new while a look is under way moves `next_at` forward again; as long as it equals the end of the lease,
   * nobody has, and the end of the look may put it off. Otherwise what came just behind the look would wait for the next one.
   */
  private async lease(most: number): Promise<Leased[]> {
    const { rows } = await this.parts.pool.query<Leased>(
      `with due as (select p.source_id ${DUE_PULLS} order by p.next_at limit $2 for update of p skip locked)
       update pull p set lease_by = $1, lease_until = now() + $3::int * interval '1 s', next_at = now() + $3::int * interval '1 s'
       from due where p.source_id = due.source_id
       returning p.source_id, p.cursor, p.every_minutes, p.failures, p.trouble_since`,
      [this.parts.holder, most, LEASE_SECONDS],
    );
    return rows;
  }

  /** Sources still being set up where somebody has just changed something: what was typed is shown as a sample by itself. */
  private async changedWhileWaiting(): Promise<string[]> {
    const { rows } = await this.parts.pool.query<{ source_id: string }>(
      `update pull p set next_at = now() + interval '1 day' from source s
       where s.id = p.source_id and p.next_at <= now() and s.state = 'waiting' and s.kind in (${TOLD_OF_CHANGES}) returning p.source_id`,
    );
    return rows.map((row) => row.source_id);
  }

  private async catchSample(sourceId: string): Promise<void> {
    const source = await this.parts.settingsCache.sourceNow(sourceId);
    const module = source && sourceModules.get(source.kind);
    if (!source || !module?.puller) return;
    const ports = this.parts.sourcePorts.of(source.business.id, source.business.name, source.id);
    const newest = await module.puller.newest(ports, module.definition.settings.parse(source.settings));
    // What is in the way of it is told when somebody asks for a sample themselves.
    if (newest.ok && newest.raw) await this.parts.intake.keepSample(source, newest.raw);
  }

  /** Fetches batch after batch until there is no more, keeping the lease as it goes; each is stored before the next is asked for. */
  private async fetchAll(leased: Leased): Promise<void> {
    let source: KnownSource | null = null;
    try {
      source = await this.parts.settingsCache.sourceNow(leased.source_id);
      const puller = source && sourceModules.get(source.kind)?.puller;
      const settings = source && sourceModules.get(source.kind)?.definition.settings.safeParse(source.settings);
      if (!source || !puller || !settings?.success) throw new Error('its kind cannot fetch');
      const ports = this.parts.sourcePorts.of(source.business.id, source.business.name, source.id);
      for await (const got of puller.pull(ports, settings.data, leased.cursor)) {
        if (!got.ok) return await this.noteTrouble(source, leased, got);
        if (!(await this.store(source, leased, got))) return;
        if (this.loop.stopping) return;
      }
    } catch (error) {
      // What was stored is stored. Whatever it was, nobody is left to think that all is well.
      log.error({ scope: 'fetching', source: leased.source_id, err: error }, 'not fetched');
      if (source)
        await this.noteTrouble(source, leased, { ok: false, problem: UNFORESEEN, retryAfterMs: null }).catch(
          (worse: Error) => log.error({ scope: 'fetching', source: leased.source_id, err: worse }, 'and not noted'),
        );
    }
  }

  private async store(source: KnownSource, leased: Leased, got: Pulled): Promise<boolean> {
    const goOn = got.more && !this.loop.stopping;
    const stored = await this.parts.intake.bring(source, got.raws, {
      text: `update pull set cursor = $3::jsonb, last_ok_at = now(), failures = 0, trouble_since = null, problem = null, unfetched = $4::jsonb,
          backlog = case when backlog is null or backlog = 'null'::jsonb then null
            else jsonb_build_object('total', backlog -> 'total', 'done', least((backlog ->> 'total')::int, (backlog ->> 'done')::int + $5::int)) end,
          lease_until = case when $6 then now() + $8::int * interval '1 s' end, lease_by = case when $6 then lease_by end,
          next_at = case when next_at is distinct from lease_until then least(next_at, now() + $7::int * interval '1 ms')
            when $6 then now() + $8::int * interval '1 s' else now() + $7::int * interval '1 ms' end
        where source_id = $1 and lease_by = $2`,
      values: [
        source.id,
        this.parts.holder,
        JSON.stringify(got.cursor ?? null),
        JSON.stringify(got.unfetched),
        got.passed ?? got.raws.length,
        goOn,
        // Every 0 minutes is at once: whoever changes something there says so, and this is the net below that.
        got.againInMs ?? (leased.every_minutes === 0 ? AT_ONCE_MS : leased.every_minutes * 60_000),
        LEASE_SECONDS,
      ],
    });
    if (!stored) return false;
    if (leased.failures > 0) {
      await this.parts.pool.query(
        `update needs_you set settled_at = now() where business_id = $1 and subject like $2 and settled_at is null`,
        [source.business.id, `source:${source.id}:trouble:%`],
      );
      this.parts.bell.ring(source.business.id);
    }
    if (got.unfetched && !got.more) await this.noteUnfetched(source, got.unfetched);
    return true;
  }

  private async noteTrouble(source: KnownSource, leased: Leased, got: Trouble): Promise<void> {
    const { now, random, pool, holder, bell } = this.parts;
    const wait = Math.max(5000, retryDelayMs(TROUBLE_RETRY, leased.failures, got.retryAfterMs, random()));
    const since = leased.trouble_since ?? new Date(now());
    const { rowCount } = await pool.query(
      `update pull set failures = failures + 1, trouble_since = $3, problem = $4, next_at = now() + $5::int * interval '1 ms',
         lease_by = null, lease_until = null where source_id = $1 and lease_by = $2`,
      [source.id, holder, since, got.problem, wait],
    );
    // One warning for each outage: its beginning is part of what the warning is about. Asked to wait for long, it is told at once.
    const long = (got.retryAfterMs ?? 0) > MOST_ASKED_MS;
    if (rowCount === 1 && (leased.failures + 1 === TELL_AFTER || long))
      await pool.query(
        `insert into needs_you (id, business_id, kind, subject, title, detail, source_id, created_at)
         values ($1, $2, 'source_trouble', $3, $4, $5, $6, now()) on conflict (business_id, subject) do nothing`,
        [
          uuidv7(),
          source.business.id,
          `source:${source.id}:trouble:${since.toISOString()}`,
          `${source.name}: nothing can be fetched`,
          `${got.problem} ${long ? `It asks us to wait ${durationWords(got.retryAfterMs!)}; we ask again in an hour.` : 'Pine Bell goes on trying, and nothing is lost once it answers again.'}`,
          source.id,
        ],
      );
    bell.ring(source.business.id);
  }

  /** Asks what the services still hold for sources that are not being fetched from: paused ones, and those in trouble. */
  async lookAtUnfetched(): Promise<void> {
    const { rows } = await this.parts.pool.query<{ source_id: string; cursor: unknown }>(
      `select p.source_id, p.cursor from pull p join source s on s.id = p.source_id where s.removed_at is null and (s.state <> 'live' or p.trouble_since is not null)`,
    );
    for (const row of rows) {
      const source = await this.parts.settingsCache.sourceById(row.source_id);
      const module = source && sourceModules.get(source.kind);
      if (!source || !module?.puller?.unfetched) continue;
      const ports = this.parts.sourcePorts.of(source.business.id, source.business.name, source.id);
      const got = await module.puller.unfetched(ports, module.definition.settings.parse(source.settings), row.cursor);
      if (!got.ok) continue;
      const unfetched = { count: got.count, firstExpiresAt: got.firstExpiresAt };
      await this.parts.pool.query('update pull set unfetched = $2 where source_id = $1', [source.id, unfetched]);
      await this.noteUnfetched(source, unfetched);
      this.parts.bell.ring(source.business.id);
    }
  }

  private async noteUnfetched(source: KnownSource, unfetched: NonNullable<Pulled['unfetched']>): Promise<void> {
    const first = unfetched.firstExpiresAt;
    if (!first || Date.parse(first) - this.parts.now() > EXPIRY_DAYS * 86_400_000) {
      await this.parts.pool.query(
        'update needs_you set settled_at = now() where business_id = $1 and subject = $2 and settled_at is null',
        [source.business.id, `source:${source.id}:expiring`],
      );
      return;
    }
    await this.parts.pool.query(
      `insert into needs_you (id, business_id, kind, subject, title, detail, source_id, created_at)
       values ($1, $2, 'entries_expiring', $3, 'Entries will soon be thrown away', $4, $5, now())
       on conflict (business_id, subject) do update set detail = excluded.detail, settled_at = null, settled_by_id = null`,
      [
        uuidv7(),
        source.business.id,
        `source:${source.id}:expiring`,
        `${source.name}: ${unfetched.count} not fetched yet. The service throws the first away on ${first.slice(0, 10)}. Put the source live to fetch them.`,
        source.id,
      ],
    );
  }
}
