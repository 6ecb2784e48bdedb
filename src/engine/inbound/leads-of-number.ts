import type { Db } from '../../db/db.ts';

/** Everybody who gave a number: whose it is known to be first, then those who gave it under another name. */
export async function leadsOfNumber(client: Db, businessId: string, number: string): Promise<string[]> {
  const { rows } = await client.query<{ lead_id: string }>(
    `select lead_id, 0 as rank from lead_identity where business_id = $1 and kind = 'phone' and value = $2
     union all select lead_id, 1 from lead_identity where business_id = $1 and kind in ('number_asked', 'number_shared') and split_part(value, '|', 1) = $2
     order by rank`,
    [businessId, number],
  );
  return [...new Set(rows.map((row) => row.lead_id))];
}
