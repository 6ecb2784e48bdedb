import ical from 'ical-generator';
import type pg from 'pg';
import { firstFree } from '../../core/appointments/first-free.ts';
import { inStep, type Standing } from '../../core/appointments/in-step.ts';
import type { TakenTime } from '../../core/appointments/read-ics.ts';
import { retryDelayMs } from '../../core/delivery/backoff.ts';
import { storableText } from '../../core/fields/field.ts';
import type { ConnectionSettings } from '../../db/entities/connection.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import type { SecretBox } from '../../db/secret-box.ts';
import type { CalendarAccount, CalendarAccounts, CalendarThing } from '../../gateways/calendar-account.ts';
import type { CallSeen } from '../../gateways/described/described-caller.ts';
import { log } from '../../log.ts';
import { type StrangerReader, TooHeavy } from '../../reading/stranger-reader.ts';
import type { Bell } from '../bell.ts';
import { LeasedLoop } from '../loop.ts';
import { calendarAccount } from './calendar-account.ts';

const AT_ONCE = 4;
const LEASE_SECONDS = 120;
/** A server that marks its calendars is asked for the mark only; a file is fetched whole. */
const EVERY_MS = 60_000;
/** After somebody changed what was about to be written. */
const AGAIN_MS = 1000;
const FILE_EVERY_MS = 10 * 60_000;
const TROUBLE_RETRY = { baseMs: 15_000, capMs: 15 * 60_000, giveUpAfterMs: Number.POSITIVE_INFINITY };
const DAY_MS = 86_400_000;
/** How far back and ahead a calendar is read. */
const BEHIND_DAYS = 31;
const AHEAD_DAYS = 366;
/** What was held so short a time ago may have been held before their own appointment was known here. */
const JUST_HELD_MS = 10 * 60_000;
/** More than so many taken out there at once is a calendar that was emptied, not somebody's wish: they are put there anew. */
const MOST_TAKEN_OUT = 3;
/** Appointments written at one look. */
const MOST_WRITTEN = 100;

const OURS = /^UID:([0-9a-f-]{36})@pine-bell\s*$/im;

interface Own {
  id: string;
  business_id: string;
  business_key: string;
  connection_id: string;
  colleague_id: string;
  href: string;
  writes: boolean;
  titles: boolean;
  tag: string | null;
  failures: number;
  settings: ConnectionSettings;
  secret: string | null;
  time_zone: string;
}
interface Copy {
  entry_id: string;
  href: string;
  etag: string | null;
  title: string;
  starts_at: Date;
  ends_at: Date;
  /** Of the entry; null when it is gone, or another colleague's by now. */
  now_title: string | null;
  now_starts: Date | null;
  now_ends: Date | null;
  fixed: boolean;
}
interface Due {
  entry_id: string;
  title: string;
  starts_at: Date;
  ends_at: Date;
  lead: string;
  lead_id: string | null;
  phone: string | null;
  /** Null where it has not been written yet. */
  href: string | null;
  etag: string | null;
}

const DUE = `from own_calendar o join connection c on c.id = o.connection_id and c.removed_at is null
  join business b on b.id = o.business_id and b.removed_at is null
  where o.next_at <= now() and (o.lease_until is null or o.lease_until < now())`;

/** Keeps colleagues' own calendars and ours in step: their time is known here, and what is held here stands there. */
export class OwnCalendars {
  readonly loop = new LeasedLoop<Own>({
    name: 'own calendars',
    atOnce: AT_ONCE,
    due: `exists (select ${DUE})`,
    lease: (most) => this.lease(most),
    work: (own) => this.look(own),
    about: ({ id }) => ({ calendar: id }),
  });

  constructor(
    private readonly parts: {
      pool: pg.Pool;
      secrets: SecretBox;
      calendars: CalendarAccounts;
      reader: StrangerReader;
      bell: Bell;
      seen: (call: CallSeen) => void;
      publicUrl: string;
      now: () => number;
      random: () => number;
    },
  ) {}

  /** As with what is fetched: whoever asks for another look meanwhile moves `next_at`, which else equals the end of the lease. */
  private async lease(most: number): Promise<Own[]> {
    const { rows } = await this.parts.pool.query<Own>(
      `with due as (select o.id ${DUE} order by o.next_at limit $1 for update of o skip locked)
       update own_calendar o set lease_until = now() + $2::int * interval '1 s', next_at = now() + $2::int * interval '1 s'
       from due, connection c, business b where o.id = due.id and c.id = o.connection_id and b.id = o.business_id
       returning o.id, o.business_id, b.key as business_key, o.connection_id, o.colleague_id, o.href, o.writes, o.titles, o.tag, o.failures, c.settings, c.secret, b.time_zone`,
      [most, LEASE_SECONDS],
    );
    return rows;
  }

  private async look(own: Own): Promise<void> {
    const { pool, secrets, calendars, now, random, bell, seen } = this.parts;
    const began = now();
    const account = calendarAccount(own.settings, own.secret === null ? null : secrets.open(own.secret));
    let problem = '';
    let tag = own.tag;
    // Looked at again at once, but not for ever: a server that never agrees is looked at as any other.
    let again = false;
    try {
      // Once a day it is read whole, whatever its mark says: series go on, and the days that are looked at with them.
      const day = new Date(began).toISOString().slice(0, 10);
      const known = own.tag?.startsWith(`${day} `) ? own.tag.slice(day.length + 1) : null;
      const got = await calendars.read(account, own.href, known, {
        from: new Date(began - BEHIND_DAYS * DAY_MS),
        to: new Date(began + AHEAD_DAYS * DAY_MS),
      });
      if (!got.ok) problem = got.problem;
      else {
        if (got.value.things) await this.take(own, got.value.things, began);
        // Only what has been taken is known.
        tag = got.value.tag === null ? null : `${day} ${got.value.tag}`;
        if (own.writes) {
          const written = await this.write(own, account);
          if (!written.ok) problem = written.problem;
          // Somebody changed what we were about to: it is read anew.
          else if (written.conflict) {
            again = tag !== null;
            tag = null;
          }
        }
      }
    } catch (error) {
      log.error({ scope: 'own calendars', calendar: own.id, err: error }, 'not brought into step');
      problem = 'It could not be read for a reason of ours.';
    }
    const well = problem === '';
    seen({ connectionId: own.connection_id, answered: well, well, ms: now() - began, problem, at: now() });
    const wait = again
      ? AGAIN_MS
      : well
        ? account.user === ''
          ? FILE_EVERY_MS
          : EVERY_MS
        : retryDelayMs(TROUBLE_RETRY, own.failures, null, random());
    await pool.query(
      `update own_calendar set tag = $2, lease_until = null,
         next_at = case when next_at is distinct from lease_until and $3 then least(next_at, now() + $4::int * interval '1 ms') else now() + $4::int * interval '1 ms' end,
         failures = case when $3 then 0 else failures + 1 end, last_ok_at = case when $3 then now() else last_ok_at end,
         trouble_since = case when $3 then null else coalesce(trouble_since, now()) end, problem = $5 where id = $1`,
      [own.id, tag, well, Math.round(wait), problem],
    );
    bell.ring(own.business_id);
  }

  /** Brings what stands in their calendar here. */
  private async take(own: Own, things: readonly CalendarThing[], began: number): Promise<void> {
    const times = await this.timesOf(things, own.time_zone);
    const ours = new Map<string, { thing: CalendarThing; there: Standing | null }>();
    for (const thing of things) {
      const id = things.length === 1 && thing.href === '' ? undefined : OURS.exec(unfolded(thing.text))?.[1];
      if (id) ours.set(id, { thing, there: null });
    }
    const busy: TakenTime[] = [];
    for (const time of times) {
      const id = /^([0-9a-f-]{36})@pine-bell$/.exec(time.uid)?.[1];
      if (!id) busy.push(time);
      else if (ours.has(id))
        ours.get(id)!.there = { title: time.title, start: time.startsAt.getTime(), end: time.endsAt.getTime() };
    }
    await inTransaction(this.parts.pool, async (client) => {
      // With holds of this colleague one at a time.
      await client.query('select pg_advisory_xact_lock(hashtextextended($1, 18))', [own.colleague_id]);
      await this.takeBusy(client, own, busy);
      if (own.writes) await this.bringIntoStep(client, own, ours, began);
      await this.makeRoom(client, own);
    });
  }

  /** One thing that cannot be read takes no others with it. */
  private async timesOf(things: readonly CalendarThing[], zone: string): Promise<TakenTime[]> {
    const { reader, now } = this.parts;
    const read = (text: string) => reader.read('calendar', { text, zone, now: now() });
    if (things.length === 0) return [];
    try {
      return (await read(things.map(({ text }) => text).join('\r\n'))).times;
    } catch (error) {
      // Half a file is no calendar: what was known stays. So it does while there is no time to read.
      if (error instanceof TooHeavy || things.length === 1) throw error;
      const times: TakenTime[] = [];
      for (const { text } of things)
        await read(text).then(
          (file) => times.push(...file.times),
          (one) => {
            if (one instanceof TooHeavy) throw one;
            log.warn({ scope: 'own calendars' }, 'something in a calendar cannot be read and takes no time');
          },
        );
      return times;
    }
  }

  private async takeBusy(client: pg.PoolClient, own: Own, busy: readonly TakenTime[]): Promise<void> {
    const prefix = `own:${own.id}:`;
    await client.query(
      `with there as (select distinct on (uid) * from jsonb_to_recordset($4::jsonb) as x(uid text, title text, starts_at timestamptz, ends_at timestamptz)),
         gone as (delete from calendar_entry where business_id = $1 and colleague_id = $2 and uid like $3 || '%' and uid not in (select uid from there)),
         moved as (update calendar_entry e set title = t.title, starts_at = t.starts_at, ends_at = t.ends_at from there t
           where e.business_id = $1 and e.colleague_id = $2 and e.uid = t.uid and (e.title, e.starts_at, e.ends_at) is distinct from (t.title, t.starts_at, t.ends_at))
       insert into calendar_entry (id, business_id, colleague_id, title, starts_at, ends_at, uid, created_at)
       select gen_random_uuid(), $1, $2, t.title, t.starts_at, t.ends_at, t.uid, now() from there t
       where not exists (select from calendar_entry e where e.business_id = $1 and e.colleague_id = $2 and e.uid = t.uid)`,
      [
        ...[own.business_id, own.colleague_id, prefix],
        JSON.stringify(
          busy.map(({ uid, title, startsAt, endsAt }) => ({
            uid: storableText(prefix + uid),
            title: own.titles ? storableText(title) : 'Busy',
            ...{ starts_at: startsAt, ends_at: endsAt },
          })),
        ),
      ],
    );
  }

  /** What we put there and somebody moved or took out there. */
  private async bringIntoStep(
    client: pg.PoolClient,
    own: Own,
    ours: ReadonlyMap<string, { thing: CalendarThing; there: Standing | null }>,
    began: number,
  ): Promise<void> {
    // Put there by a process that died before it could say so.
    for (const [id, { thing, there }] of ours)
      if (there)
        await client.query(
          `insert into calendar_copy (own_calendar_id, entry_id, business_id, href, etag, title, starts_at, ends_at, at)
           select $1, e.id, e.business_id, $3, $4, $5, $6, $7, now() from calendar_entry e where e.id = $2 and e.business_id = $8 and e.colleague_id = $9
           on conflict do nothing`,
          [
            ...[
              own.id,
              id,
              thing.href,
              thing.etag,
              storableText(there.title),
              new Date(there.start),
              new Date(there.end),
            ],
            ...[own.business_id, own.colleague_id],
          ],
        );
    const { rows } = await client.query<Copy>(
      `select c.entry_id, c.href, c.etag, c.title, c.starts_at, c.ends_at, e.title as now_title, e.starts_at as now_starts, e.ends_at as now_ends,
         coalesce(e.uid like 'booking:%', false) as fixed
       from calendar_copy c left join calendar_entry e on e.id = c.entry_id and e.colleague_id = $2
       where c.own_calendar_id = $1 and c.ends_at > now() and c.at < $3 for update of c`,
      [own.id, own.colleague_id, new Date(began)],
    );
    const decided = rows.map((copy) => {
      const found = ours.get(copy.entry_id);
      const before = { title: copy.title, start: copy.starts_at.getTime(), end: copy.ends_at.getTime() };
      const here =
        copy.now_title === null
          ? null
          : { title: copy.now_title, start: copy.now_starts!.getTime(), end: copy.now_ends!.getTime() };
      return { copy, found, before, here, does: inStep(here, before, found?.there ?? null, copy.fixed) };
    });
    const takenOut = decided.filter(({ does }) => does === 'take out here').length;
    const emptied = takenOut > MOST_TAKEN_OUT && takenOut * 2 > decided.length;
    for (const { copy, found, does } of decided) {
      const key = [own.id, copy.entry_id];
      if (does === 'move here') {
        const { start, end } = found!.there!;
        await client.query('update calendar_entry set starts_at = $2, ends_at = $3 where id = $1', [
          ...[copy.entry_id, new Date(start), new Date(end)],
        ]);
        await client.query(
          'update calendar_copy set starts_at = $3, ends_at = $4, etag = $5 where own_calendar_id = $1 and entry_id = $2',
          [...key, new Date(start), new Date(end), found!.thing.etag],
        );
      } else if (does === 'take out here' && !emptied) {
        await client.query('delete from calendar_entry where id = $1', [copy.entry_id]);
        await client.query('delete from calendar_copy where own_calendar_id = $1 and entry_id = $2', key);
      } else if (!found)
        await client.query('delete from calendar_copy where own_calendar_id = $1 and entry_id = $2', key);
      else {
        // What stands there now is what is written over, or taken out.
        const there = found.there;
        await client.query(
          `update calendar_copy set etag = $3, href = $4, title = coalesce($5, title), starts_at = coalesce($6, starts_at), ends_at = coalesce($7, ends_at)
           where own_calendar_id = $1 and entry_id = $2`,
          [
            ...[...key, found.thing.etag, found.thing.href],
            ...(does === 'write there'
              ? [
                  storableText(there?.title ?? ''),
                  there ? new Date(there.start) : null,
                  there ? new Date(there.end) : null,
                ]
              : [null, null, null]),
          ],
        );
      }
    }
  }

  /** What was held by a workflow while their own appointment was not known yet goes to the next free time. */
  private async makeRoom(client: pg.PoolClient, own: Own): Promise<void> {
    const { rows: held } = await client.query<{ id: string; starts_at: Date; ends_at: Date }>(
      `select e.id, e.starts_at, e.ends_at from calendar_entry e where e.business_id = $1 and e.colleague_id = $2 and e.run_id is not null and e.uid is null
         and e.starts_at > now() and e.created_at > $3
         and exists (select from calendar_entry t where t.colleague_id = $2 and t.uid like $4 || '%' and t.starts_at < e.ends_at and t.ends_at > e.starts_at)
       order by e.starts_at`,
      [own.business_id, own.colleague_id, new Date(this.parts.now() - JUST_HELD_MS), `own:${own.id}:`],
    );
    for (const one of held) {
      const start = one.starts_at.getTime();
      const length = one.ends_at.getTime() - start;
      const { rows } = await client.query<{ starts_at: Date; ends_at: Date }>(
        'select starts_at, ends_at from calendar_entry where colleague_id = $1 and id <> $2 and ends_at > $3 and starts_at < $4',
        [own.colleague_id, one.id, one.starts_at, new Date(start + DAY_MS)],
      );
      const free = firstFree(
        rows.map((row) => ({ start: row.starts_at.getTime(), end: row.ends_at.getTime() })),
        start,
        length,
      );
      await client.query('update calendar_entry set starts_at = $2, ends_at = $3 where id = $1', [
        ...[one.id, new Date(free), new Date(free + length)],
      ]);
    }
  }

  /** Puts what is held here there, and takes out what is held no more. */
  private async write(
    own: Own,
    account: CalendarAccount,
  ): Promise<{ ok: true; conflict: boolean } | { ok: false; problem: string }> {
    const { pool, calendars } = this.parts;
    let conflict = false;
    const { rows: gone } = await pool.query<{ entry_id: string; href: string; etag: string | null }>(
      `select c.entry_id, c.href, c.etag from calendar_copy c where c.own_calendar_id = $1
         and not exists (select from calendar_entry e where e.id = c.entry_id and e.colleague_id = $2) limit ${MOST_WRITTEN}`,
      [own.id, own.colleague_id],
    );
    for (const { entry_id, href, etag } of gone) {
      const removed = await calendars.remove(account, href, etag);
      if (!removed.ok) return removed;
      if (removed.value === 'conflict') conflict = true;
      else
        await pool.query('delete from calendar_copy where own_calendar_id = $1 and entry_id = $2', [own.id, entry_id]);
    }
    const { rows: due } = await pool.query<Due>(
      `select e.id as entry_id, e.title, e.starts_at, e.ends_at, e.lead_id, trim(coalesce(l.first_name || ' ' || l.last_name, '')) as lead, l.phone, c.href, c.etag
       from calendar_entry e left join lead l on l.id = e.lead_id left join calendar_copy c on c.own_calendar_id = $1 and c.entry_id = e.id
       where e.business_id = $2 and e.colleague_id = $3 and e.ends_at > now() and (e.uid is null or e.uid like 'booking:%')
         and (c.entry_id is null or (c.title, c.starts_at, c.ends_at) is distinct from (e.title, e.starts_at, e.ends_at)) order by e.starts_at limit ${MOST_WRITTEN}`,
      [own.id, own.business_id, own.colleague_id],
    );
    for (const entry of due) {
      const at = { calendar: own.href, name: `${entry.entry_id}.ics`, href: entry.href, etag: entry.etag };
      const put = await calendars.write(account, at, this.asCalendar(own, entry));
      if (!put.ok) return put;
      if (put.value === 'conflict') {
        conflict = true;
        continue;
      }
      await pool.query(
        `insert into calendar_copy (own_calendar_id, entry_id, business_id, href, etag, title, starts_at, ends_at, at) values ($1, $2, $3, $4, $5, $6, $7, $8, now())
         on conflict (own_calendar_id, entry_id) do update set href = excluded.href, etag = excluded.etag, title = excluded.title,
           starts_at = excluded.starts_at, ends_at = excluded.ends_at, at = excluded.at`,
        [
          ...[own.id, entry.entry_id, own.business_id, put.value.href, put.value.etag],
          ...[entry.title, entry.starts_at, entry.ends_at],
        ],
      );
    }
    return { ok: true, conflict };
  }

  private asCalendar(own: Own, entry: Due): string {
    const calendar = ical({ prodId: { company: 'Pine Bell', product: 'Calendar' } });
    calendar.createEvent({
      id: `${entry.entry_id}@pine-bell`,
      start: entry.starts_at,
      end: entry.ends_at,
      stamp: new Date(this.parts.now()),
      summary: entry.title,
      ...(entry.lead_id
        ? {
            description: [entry.lead, entry.phone].filter(Boolean).join(', '),
            url: `${this.parts.publicUrl}/at/${own.business_key}/leads/${entry.lead_id}`,
          }
        : {}),
    });
    return calendar.toString();
  }
}

/** Lines that were folded (RFC 5545 §3.1) as they were. */
const unfolded = (text: string) => text.replace(/\r?\n[ \t]/g, '');
