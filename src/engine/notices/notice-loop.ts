import type pg from 'pg';
import { retryDelayMs, retryFor } from '../../core/delivery/backoff.ts';
import { type Notice, type NoticeKind, noticesOf } from '../../core/notices/notices.ts';
import { type QuietHours, quietUntil } from '../../core/notices/telling.ts';
import type { WorkingTime } from '../../core/people/working-time.ts';
import { LeasedLoop } from '../loop.ts';
import { NEWS, whatCame } from './what-came.ts';

/** A way somebody is told by, as it is due. */
export interface DueWay {
  id: string;
  /** Of its business: where its pages are, and how it is called. */
  key: string;
  business: string;
  /** Whether its person belongs to others too. */
  several: boolean;
  time_zone: string;
  quiet: QuietHours | null;
  working: WorkingTime | null;
  business_id: string;
  person_id: string;
  wants: NoticeKind[];
  told_until: Date;
  failures: number;
  /** What has come up to then is told now. */
  until: Date;
}

/** What came of telling: a way that is gone is forgotten; one that does not want it is not asked again about the same. Times in milliseconds. */
export type Telling =
  | { kind: 'taken' }
  | { kind: 'gone' }
  | { kind: 'refused'; problem: string }
  | { kind: 'later'; problem: string; afterMs: number | null };

/** What has come is told once it has stood for so long, in milliseconds: by then whoever wrote it at the same time has written too. */
const STANDS_MS = 2000;
const LEASE_MS = 60_000;
/** Tried for a day; then what would have been told is old, and the next news begins anew. */
const RETRY = retryFor(24 * 60);
/** So often at least: what waited over a weekend is a day old before it is tried for the first time. */
const FEWEST_TRIES = 1000;

/**
 * Tells people what has come in, by the ways of one table: each has its mark of what has been told, and waits while its person has quiet hours or a day off.
 * Told before it is noted: after a crash in between it is told again, under the same key.
 */
export function noticeLoop<Way extends DueWay>(
  parts: { pool: pg.Pool; now: () => number; random: () => number },
  {
    name,
    table,
    columns,
    pauseMs,
    tell,
  }: {
    name: string;
    table: 'push_device' | 'notice_way';
    /** What of the table is needed to tell. */
    columns: readonly string[];
    /** After a notice the next waits for so long: what comes meanwhile is told together. */
    pauseMs: number;
    tell(way: Way, notices: Notice[]): Promise<Telling>;
  },
): LeasedLoop<Way> {
  const { pool, now, random } = parts;

  const lease = async (most: number): Promise<Way[]> => {
    const until = new Date(now() - STANDS_MS);
    const { rows } = await pool.query<Way>(
      `update ${table} set lease_until = $2 from (
         select d.id, b.key, b.name as business, b.time_zone, m.quiet, m.working, (select count(*) from membership o where o.person_id = d.person_id) > 1 as several
         from ${table} d join business b on b.id = d.business_id and b.removed_at is null join membership m on m.business_id = d.business_id and m.person_id = d.person_id
         where (d.not_before is null or d.not_before <= $3) and (d.lease_until is null or d.lease_until < $3) and ${NEWS}
         order by d.told_until limit $4 for update of d skip locked) due
       where ${table}.id = due.id returning due.*, business_id, person_id, wants, told_until, failures${columns.map((column) => `, ${column}`).join('')}`,
      [until, new Date(now() + LEASE_MS), new Date(now()), most],
    );
    return rows.map((row) => ({ ...row, until }));
  };

  const put = (way: Way, set: string, values: unknown[] = []) =>
    pool.query(`update ${table} set lease_until = null, ${set} where id = $1`, [way.id, ...values]);

  const work = async (way: Way): Promise<void> => {
    const held = quietUntil(way.quiet, way.working, now(), way.time_zone);
    if (held !== null) return void (await put(way, 'not_before = $2', [new Date(held)]));
    const notices = noticesOf(await whatCame(pool, way), new Set(way.wants));
    const came: Telling = notices.length === 0 ? { kind: 'taken' } : await tell(way, notices);
    if (came.kind === 'gone') return void (await pool.query(`delete from ${table} where id = $1`, [way.id]));
    if (came.kind === 'later') {
      const wait = retryDelayMs(RETRY, way.failures, came.afterMs, random());
      const tooOld = way.failures >= FEWEST_TRIES && now() - way.told_until.getTime() > RETRY.giveUpAfterMs;
      return void (await put(
        way,
        'failures = failures + 1, problem = $2, not_before = $3, told_until = case when $4 then $5 else told_until end',
        [came.problem.slice(0, 300), new Date(now() + wait), tooOld, way.until],
      ));
    }
    const told = notices.length > 0 && came.kind === 'taken';
    await put(
      way,
      'failures = 0, problem = $2, told_until = $3, told_at = case when $4 then $5 else told_at end, not_before = case when $4 then $6 else not_before end',
      [
        came.kind === 'refused' ? came.problem.slice(0, 300) : null,
        way.until,
        told,
        new Date(now()),
        new Date(now() + pauseMs),
      ],
    );
  };

  return new LeasedLoop<Way>({
    name,
    atOnce: 8,
    // It looks by itself: nothing has to wake it, and two seconds are soon enough.
    due: 'false',
    lease,
    work,
    about: ({ id }) => ({ way: id }),
  });
}
