import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { Membership } from '../../db/entities/business.ts';
import { Connection } from '../../db/entities/connection.ts';
import { OwnCalendar } from '../../db/entities/own-calendar.ts';
import { calendarAccount } from '../../engine/calendars/calendar-account.ts';
import type { FoundCalendar } from '../../gateways/calendar-account.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** A calendar a colleague keeps elsewhere, as screens see it. */
export interface OwnCalendarView {
  id: string;
  name: string;
  connection: string;
  colleagueId: string;
  colleague: string;
  writes: boolean;
  titles: boolean;
  lastOkAt: string | null;
  problem: string;
}
export interface OwnCalendars {
  calendars: OwnCalendarView[];
  /** Calendar accounts that are connected. */
  accounts: { id: string; name: string }[];
}

export async function listOwnCalendars(use: Use): Promise<OwnCalendars> {
  const { rows } = await use.db.query(
    `select o.id, o.name, c.name as connection, o.colleague_id, p.name as colleague, o.writes, o.titles, o.last_ok_at, o.problem
     from own_calendar o join connection c on c.id = o.connection_id join person p on p.id = o.colleague_id
     where o.business_id = $1 and c.removed_at is null order by p.name, o.name`,
    [use.actor.businessId],
  );
  const accounts = await use.em.find(
    Connection,
    { business: use.actor.businessId, kind: 'calendar_account' },
    { orderBy: { name: 'asc' } },
  );
  return {
    calendars: rows.map((row) => ({
      ...{ id: row.id, name: row.name, connection: row.connection, colleagueId: row.colleague_id },
      ...{ colleague: row.colleague, writes: row.writes, titles: row.titles },
      ...{ lastOkAt: row.last_ok_at?.toISOString() ?? null, problem: row.problem },
    })),
    accounts: accounts.map(({ id, name }) => ({ id, name })),
  };
}

async function accountOf(use: Use, connectionId: string) {
  const found = await use.em.findOne(Connection, {
    ...{ id: connectionId, business: use.actor.businessId, kind: 'calendar_account' },
  });
  if (!found) throw notHere('connection');
  return calendarAccount(found.settings, found.secret ? use.runtime.secrets.open(found.secret) : null);
}

/** The calendars of an account, asked of the server. */
export async function calendarChoices(use: Use, connectionId: string | null): Promise<{ calendars: FoundCalendar[] }> {
  demand(use.actor, 'build');
  if (!connectionId) return { calendars: [] };
  if (!z.uuid().safeParse(connectionId).success) throw notHere('connection');
  const found = await use.runtime.outside.calendars.calendars(await accountOf(use, connectionId));
  if (!found.ok) throw new Refusal(502, 'calendar', found.problem);
  return { calendars: found.value };
}

export const NewOwnCalendar = z.object({
  connectionId: z.uuid('Choose the account'),
  href: z.string().max(1000),
  colleagueId: z.uuid('Choose whose calendar it is'),
  /** What is held here is put into it. */
  writes: z.boolean(),
  /** Colleagues see what is in it, not only that it takes time. */
  titles: z.boolean(),
});

/** Begins to keep a colleague's own calendar and ours in step. */
export async function addOwnCalendar(use: Use, input: z.infer<typeof NewOwnCalendar>): Promise<{ id: string }> {
  demand(use.actor, 'build');
  const member = await use.em.findOne(Membership, { business: use.actor.businessId, person: input.colleagueId });
  if (!member) throw notHere('colleague');
  const { calendars } = await calendarChoices(use, input.connectionId);
  const chosen = calendars.find(({ href }) => href === input.href);
  if (!chosen) throw new Refusal(422, 'calendar', 'This calendar is not there any more. Choose another.');
  if (input.writes && !chosen.writable)
    throw new Refusal(
      422,
      'writes',
      'An address that gives a calendar can only be read. Untick that what is held is put into it.',
    );
  return use.write(async (tx) => {
    const id = uuidv7();
    const { rowCount } = await tx.db.query(
      `insert into own_calendar (id, business_id, connection_id, colleague_id, href, name, writes, titles, next_at, created_at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, now(), now()) on conflict do nothing`,
      [
        ...[id, tx.actor.businessId, input.connectionId, input.colleagueId, chosen.href, chosen.name.slice(0, 200)],
        ...[input.writes, input.titles],
      ],
    );
    if (!rowCount) throw new Refusal(409, 'there', 'This calendar of theirs is there already.');
    tx.note('calendar.own_add', id, { name: chosen.name, colleagueId: input.colleagueId });
    return { id };
  });
}

/** Ends it: their time is known here no more; what was put into their calendar stays there. */
export async function removeOwnCalendar(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const found = await tx.em.findOne(OwnCalendar, { id, business: tx.actor.businessId });
  if (!found) throw notHere('calendar');
  tx.note('calendar.own_remove', id, { name: found.name });
  tx.em.remove(found);
  await tx.em.flush();
}
