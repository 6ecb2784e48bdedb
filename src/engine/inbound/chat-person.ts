import { v7 as uuidv7 } from 'uuid';
import { splitName } from '../../core/people/name.ts';
import type { Db } from '../../db/db.ts';
import { changedBy } from '../../db/hot/lead-change.sql.ts';

/**
 * The lead behind a number that writes in chat, made when there is none, in the transaction of `client`. `phone` is E.164; `name` is
 * what they call themselves there, put in where no name is known.
 */
export async function leadOfNumber(
  client: Db,
  businessId: string,
  phone: string,
  name: string,
  at: string,
): Promise<string> {
  // The same lock as accepting an arrival takes: one person is made once.
  await client.query(`select pg_advisory_xact_lock(hashtextextended($1 || ':phone:' || $2, 11))`, [businessId, phone]);
  const { first, last } = splitName(name.trim().slice(0, 200));
  const names = [first, last];
  const known = await client.query<{ lead_id: string }>(
    `select lead_id from lead_identity where business_id = $1 and kind = 'phone' and value = $2`,
    [businessId, phone],
  );
  const found = known.rows[0]?.lead_id;
  if (found) {
    if (first !== '') {
      await changedBy(client, { kind: 'chat' });
      await client.query(
        `update lead set first_name = $2, last_name = $3 where id = $1 and first_name = '' and last_name = ''`,
        [found, ...names],
      );
    }
    return found;
  }
  const id = uuidv7();
  await client.query(
    `insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
     values ($1, $2, $3, $4, '', $5, '{}', $6, $6)`,
    [id, businessId, ...names, phone, at],
  );
  await client.query(
    `insert into lead_identity (business_id, kind, value, lead_id) values ($1, 'phone', $2, $3) on conflict do nothing`,
    [businessId, phone, id],
  );
  // What they wrote before anybody knew them is theirs.
  await client.query('update inbound set lead_id = $3 where business_id = $1 and sender = $2 and lead_id is null', [
    businessId,
    phone,
    id,
  ]);
  await client.query(
    `update conversation set lead_id = $3 where business_id = $1 and sender = $2 and lead_id is null`,
    [businessId, phone, id],
  );
  return id;
}
