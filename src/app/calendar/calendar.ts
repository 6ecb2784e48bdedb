import { randomBytes } from 'node:crypto';
import ical from 'ical-generator';
import { Temporal } from 'temporal-polyfill';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { CalendarFile } from '../../core/appointments/read-ics.ts';
import { readInstant } from '../../core/time/read-instant.ts';
import { clockTime } from '../../core/words/instant.ts';
import { Membership } from '../../db/entities/business.ts';
import { Source } from '../../db/entities/source.ts';
import { TooHeavy } from '../../reading/stranger-reader.ts';
import type { Runtime } from '../../runtime.ts';
import { bookingCalendar } from '../../sources/booking-calendar/definition.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export interface WeekEntry {
  id: string;
  title: string;
  colleagueId: string;
  colleague: string;
  leadId: string | null;
  lead: string;
  startsAt: string;
  endsAt: string;
  /** It stands in their own calendar, and is taken out there. */
  own: boolean;
}

export interface WeekView {
  /** Monday to Sunday, "YYYY-MM-DD". */
  days: string[];
  entries: WeekEntry[];
  colleagues: { id: string; name: string }[];
  /** Outside booking calendars that are listened to, and into whose calendar their bookings go. */
  bookings: { sourceId: string; name: string; colleagueId: string | null }[];
  /** The address of one's own feed; null until it is asked for. */
  feed: string | null;
}

const feedAddress = (use: Use, key: string | null) =>
  key === null ? null : `${use.runtime.settings.publicUrl}/calendar/${key}.ics`;

/** The week that holds a day, by the business's clock: what is held and booked, of everybody. */
export async function getWeek(use: Use, day: string | null): Promise<WeekView> {
  const { timeZone, businessId, personId } = use.actor;
  let date = Temporal.Now.plainDateISO(timeZone);
  try {
    if (day) date = Temporal.PlainDate.from(day);
  } catch {
    // An address somebody has mistyped: this week.
  }
  const monday = date.subtract({ days: date.dayOfWeek - 1 });
  const begin = (plainDate: Temporal.PlainDate) => new Date(plainDate.toZonedDateTime(timeZone).epochMilliseconds);
  const [entries, people, bookings, mine] = await Promise.all([
    use.db.query(
      `select e.id, e.title, e.colleague_id, p.name as colleague, e.lead_id, trim(coalesce(l.first_name || ' ' || l.last_name, '')) as lead, e.starts_at, e.ends_at, coalesce(e.uid like 'own:%', false) as own
       from calendar_entry e join person p on p.id = e.colleague_id left join lead l on l.id = e.lead_id
       where e.business_id = $1 and e.ends_at > $2 and e.starts_at < $3 and ($4::uuid[] is null or e.colleague_id = any($4)) order by e.starts_at limit 2000`,
      [businessId, begin(monday), begin(monday.add({ days: 7 })), use.actor.leadsOf],
    ),
    use.db.query<{ id: string; name: string }>(
      'select p.id, p.name from membership m join person p on p.id = m.person_id where m.business_id = $1 order by p.name',
      [businessId],
    ),
    use.db.query<{ sourceId: string; name: string; colleagueId: string | null }>(
      `select id as "sourceId", name, settings ->> 'colleagueId' as "colleagueId" from source where business_id = $1 and removed_at is null and kind = 'booking-calendar' order by name`,
      [businessId],
    ),
    use.em.findOneOrFail(Membership, { business: businessId, person: personId }),
  ]);
  return {
    days: Array.from({ length: 7 }, (_, i) => monday.add({ days: i }).toString()),
    entries: entries.rows.map((row) => ({
      id: row.id,
      title: row.title,
      colleagueId: row.colleague_id,
      colleague: row.colleague,
      leadId: row.lead_id,
      lead: row.lead,
      startsAt: row.starts_at.toISOString(),
      endsAt: row.ends_at.toISOString(),
      own: row.own,
    })),
    colleagues: people.rows,
    bookings: bookings.rows,
    feed: feedAddress(use, mine.calendarKey ?? null),
  };
}

export const NewAppointment = z.object({
  colleagueId: z.uuid('Choose whose time it is'),
  leadId: z.uuid().nullable().default(null),
  title: z.string().trim().min(1, 'Say what it is').max(300),
  /** By the business's clock, "2026-11-26T09:00". */
  startsAt: z.iso.datetime({ local: true, error: 'Choose a day and a time' }),
  minutes: z.number().int().min(5).max(720).default(30),
});

/** Puts an appointment into a colleague's week by hand; refused where they have another at that time. */
export async function addAppointment(tx: Write, input: z.infer<typeof NewAppointment>): Promise<{ id: string }> {
  demand(tx.actor, 'do-work');
  const { businessId, country, timeZone } = tx.actor;
  const member = await tx.em.findOne(Membership, { business: businessId, person: input.colleagueId });
  if (!member) throw notHere('colleague');
  const begins = readInstant(input.startsAt, country, timeZone);
  if (!begins) throw new Refusal(422, 'time', 'There is no such time on that day. Choose another.');
  const [startsAt, endsAt] = [new Date(begins.at), new Date(begins.at + input.minutes * 60_000)];
  const id = uuidv7();
  // With holds of this colleague one at a time.
  await tx.db.query('select pg_advisory_xact_lock(hashtextextended($1, 18))', [input.colleagueId]);
  const { rows } = await tx.db.query<{ title: string; starts_at: Date }>(
    'select title, starts_at from calendar_entry where colleague_id = $1 and ends_at > $2 and starts_at < $3 order by starts_at limit 1',
    [input.colleagueId, startsAt, endsAt],
  );
  if (rows[0])
    throw new Refusal(
      409,
      'taken',
      `They have “${rows[0].title}” at ${clockTime(rows[0].starts_at.toISOString(), tx.actor)} then. Choose another time.`,
    );
  const { rowCount } = await tx.db.query(
    `insert into calendar_entry (id, business_id, colleague_id, lead_id, title, starts_at, ends_at, created_at)
     select $1, $2, $3, $4, $5, $6, $7, now() where $4::uuid is null or exists (select from lead where id = $4::uuid and business_id = $2)`,
    [id, businessId, input.colleagueId, input.leadId, input.title, startsAt, endsAt],
  );
  if (!rowCount) throw notHere('lead');
  tx.note('calendar.add', id, input);
  return { id };
}

/** Takes an appointment out of the week. */
export async function removeAppointment(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'do-work');
  const { rows } = await tx.db.query<{ uid: string | null }>(
    'select uid from calendar_entry where id = $1 and business_id = $2 for update',
    [id, tx.actor.businessId],
  );
  if (!rows[0]) throw notHere('appointment');
  if (rows[0].uid?.startsWith('own:'))
    throw new Refusal(
      409,
      'own',
      'It stands in their own calendar. Take it out there, and it goes here within a minute.',
    );
  await tx.db.query('delete from calendar_entry where id = $1', [id]);
  tx.note('calendar.remove', id);
}

/**
 * Says into whose calendar the bookings of an outside calendar go; null for nobody's. Those there already move along. Gives what
 * its source does not listen to, so that it would never be told here.
 */
export async function giveBookings(
  tx: Write,
  sourceId: string,
  colleagueId: string | null,
): Promise<{ untold: string[] }> {
  demand(tx.actor, 'build');
  const { businessId } = tx.actor;
  const source = await tx.em.findOne(Source, { id: sourceId, business: businessId, kind: 'booking-calendar' });
  if (!source) throw notHere('booking calendar');
  if (colleagueId && !(await tx.em.findOne(Membership, { business: businessId, person: colleagueId })))
    throw notHere('colleague');
  source.settings = { ...source.settings, colleagueId };
  tx.note('calendar.bookings', sourceId, { colleagueId });
  await tx.em.flush();
  const theirs = `business_id = $1 and uid like 'booking:' || $2 || ':%'`;
  if (colleagueId)
    await tx.db.query(`update calendar_entry set colleague_id = $3 where ${theirs}`, [
      businessId,
      sourceId,
      colleagueId,
    ]);
  tx.forget();
  const events = bookingCalendar.settings.parse(source.settings).events;
  return { untold: colleagueId ? (['moved', 'cancelled'] as const).filter((one) => !events.includes(one)) : [] };
}

/** An address by which a calendar program reads one's own time; asked again, the old one ends. */
export async function makeFeed(tx: Write): Promise<{ feed: string }> {
  const mine = await tx.em.findOneOrFail(Membership, { business: tx.actor.businessId, person: tx.actor.personId });
  mine.calendarKey = randomBytes(24).toString('base64url');
  tx.note('calendar.feed', tx.actor.personId);
  return { feed: feedAddress(tx, mine.calendarKey)! };
}

/** What a calendar program is given (RFC 5545): the last month and all that is to come. Null when there is no such feed. */
export async function calendarFeed(runtime: Runtime, key: string): Promise<string | null> {
  const { rows: mine } = await runtime.pool.query<{
    business_id: string;
    person_id: string;
    name: string;
    key: string;
  }>(
    'select m.business_id, m.person_id, b.name, b.key from membership m join business b on b.id = m.business_id where m.calendar_key = $1 and b.removed_at is null',
    [key],
  );
  const owner = mine[0];
  if (!owner) return null;
  const { rows } = await runtime.pool.query(
    `select e.id, e.uid, e.title, e.starts_at, e.ends_at, e.created_at, trim(coalesce(l.first_name || ' ' || l.last_name, '')) as lead, l.phone, e.lead_id
     from calendar_entry e left join lead l on l.id = e.lead_id
     where e.business_id = $1 and e.colleague_id = $2 and e.ends_at > now() - interval '31 days' and coalesce(e.uid, '') not like 'own:%' order by e.starts_at limit 5000`,
    [owner.business_id, owner.person_id],
  );
  const feed = ical({ name: owner.name, prodId: { company: 'Pine Bell', product: 'Calendar' } });
  for (const row of rows)
    feed.createEvent({
      id: row.uid ?? `${row.id}@pine-bell`,
      start: row.starts_at,
      end: row.ends_at,
      stamp: row.created_at,
      summary: row.title,
      ...(row.lead_id
        ? {
            description: [row.lead, row.phone].filter(Boolean).join(', '),
            url: `${runtime.settings.publicUrl}/at/${owner.key}/leads/${row.lead_id}`,
          }
        : {}),
    });
  return feed.toString();
}

/** Reads a calendar file; times without a zone are meant where the business is. */
async function readCalendar(use: Use, text: string): Promise<CalendarFile> {
  try {
    return await use.runtime.reader.read('calendar', { text, zone: use.actor.timeZone, now: use.runtime.now() });
  } catch (error) {
    if (error instanceof TooHeavy) throw new Refusal(422, error.code, error.message);
    // What the parser throws names no line a person could look at.
    throw new Refusal(
      422,
      'not-a-calendar',
      'This is not a calendar file (.ics), or it is broken. Nothing was taken from it: export it once more from your calendar.',
    );
  }
}

/** Brings a colleague's own appointments in, so that nothing is held over them. Read again, a file changes what it brought. */
export async function importCalendar(
  use: Use,
  colleagueId: string,
  file: { bytes: Buffer },
): Promise<{ added: number; changed: number; removed: number }> {
  demand(use.actor, 'build');
  const member = await use.em.findOne(Membership, { business: use.actor.businessId, person: colleagueId });
  if (!member) throw notHere('colleague');
  const { times, uids } = await readCalendar(use, file.bytes.toString('utf8'));
  return use.write(async (tx) => {
    const count = { added: 0, changed: 0, removed: 0 };
    // With holds of this colleague one at a time.
    await tx.db.query('select pg_advisory_xact_lock(hashtextextended($1, 18))', [colleagueId]);
    for (const event of times) {
      const { rowCount } = await tx.db.query(
        'update calendar_entry set title = $3, starts_at = $4, ends_at = $5 where colleague_id = $1 and uid = $2',
        [colleagueId, event.uid, event.title, event.startsAt, event.endsAt],
      );
      if (rowCount) count.changed += 1;
      else {
        await tx.db.query(
          `insert into calendar_entry (id, business_id, colleague_id, title, starts_at, ends_at, uid, created_at) values ($1, $2, $3, $4, $5, $6, $7, now())`,
          [uuidv7(), tx.actor.businessId, colleagueId, event.title, event.startsAt, event.endsAt, event.uid],
        );
        count.added += 1;
      }
    }
    // What the file still speaks of but has no time for any more is off: cancelled, marked as free, or moved.
    const { rowCount } = await tx.db.query(
      `delete from calendar_entry where colleague_id = $1 and split_part(uid, '#', 1) = any($2::text[]) and not (uid = any($3::text[]))
         and lead_id is null and uid not like 'booking:%' and ends_at > now()`,
      [colleagueId, [...uids], times.map((time) => time.uid)],
    );
    count.removed = rowCount ?? 0;
    tx.note('calendar.import', colleagueId, count);
    return count;
  });
}
