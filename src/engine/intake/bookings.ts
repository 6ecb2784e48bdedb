import type pg from 'pg';
import { v5 as uuidv5 } from 'uuid';
import { inTransaction } from '../../db/in-transaction.ts';
import type { Bell } from '../bell.ts';
import { PlainLoop } from '../loop.ts';

/** Bookings put into the calendar at once. */
const AT_ONCE = 100;
/** How far back arrivals are looked through; what is older has been taken long ago, or was there before it was wanted. */
const LOOK_BACK = '14 days';

interface Booking {
  id: string;
  business_id: string;
  source_id: string;
  lead_id: string | null;
  colleague_id: string;
  received_at: Date;
  fields: { key: string; value: string }[];
}

const NEW_BOOKINGS = `from source s join arrival a on a.source_id = s.id
  where s.kind = 'booking-calendar' and s.state = 'live' and s.settings ->> 'colleagueId' is not null and a.state = 'read'
    and a.received_at > now() - interval '${LOOK_BACK}' and not exists (select from booking_taken t where t.arrival_id = a.id)`;

/**
 * Puts what outside booking calendars tell into ours: booked is there, moved is moved, cancelled is gone. Whose time it is
 * stands in the source's settings. Each arrival is taken once, in one transaction with what it does.
 */
export class Bookings {
  readonly loop = new PlainLoop('bookings', () => this.takeNew(), `exists (select ${NEW_BOOKINGS})`);

  constructor(private readonly parts: { pool: pg.Pool; bell: Bell }) {}

  private async takeNew(): Promise<void> {
    const { rows } = await this.parts.pool.query<Booking>(
      `select a.id, a.business_id, a.source_id, a.lead_id, (s.settings ->> 'colleagueId')::uuid as colleague_id, a.received_at, a.fields
       ${NEW_BOOKINGS} order by a.received_at, a.id limit ${AT_ONCE}`,
    );
    for (const booking of rows) {
      if (this.loop.stopping) return;
      if (await this.take(booking)) this.parts.bell.ring(booking.business_id);
    }
  }

  /** False when somebody else has taken it. */
  private take(booking: Booking): Promise<boolean> {
    const field = (key: string) => booking.fields.find((field) => field.key === key)?.value ?? '';
    const event = field('event');
    const [startsAt, endsAt] = [new Date(field('appointment.start')), new Date(field('appointment.end'))];
    const uid = `booking:${booking.source_id}:${field('appointment.id')}`;
    return inTransaction(this.parts.pool, async (client) => {
      // With holds of this colleague one at a time.
      await client.query('select pg_advisory_xact_lock(hashtextextended($1, 18))', [booking.colleague_id]);
      const { rowCount } = await client.query(
        'insert into booking_taken (arrival_id, at) values ($1, now()) on conflict do nothing',
        [booking.id],
      );
      if (!rowCount) return false;
      if (event === 'cancelled')
        await client.query('delete from calendar_entry where business_id = $1 and uid = $2', [
          booking.business_id,
          uid,
        ]);
      else if (event !== 'no-show' && endsAt > startsAt)
        await client.query(
          `insert into calendar_entry (id, business_id, colleague_id, lead_id, title, starts_at, ends_at, uid, created_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
           on conflict (id) do update set starts_at = excluded.starts_at, ends_at = excluded.ends_at, title = excluded.title, lead_id = coalesce(excluded.lead_id, calendar_entry.lead_id)`,
          [
            uuidv5(field('appointment.id'), booking.source_id),
            booking.business_id,
            booking.colleague_id,
            booking.lead_id,
            field('appointment.title').slice(0, 300) || 'Booked',
            startsAt,
            endsAt,
            uid,
            booking.received_at,
          ],
        );
      return true;
    });
  }
}
