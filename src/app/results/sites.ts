import { randomBytes } from 'node:crypto';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export interface SiteRow {
  id: string;
  name: string;
  asks: boolean;
  /** What is to be put on each page. */
  code: string;
  seenAt: string | null;
  /** Visits of the last 28 days. */
  visits: number;
}

/** Web sites of the business that tell by which links people came. */
export async function listSites(use: Use): Promise<SiteRow[]> {
  const { rows } = await use.db.query<{
    id: string;
    name: string;
    key: string;
    asks: boolean;
    seen_at: Date | null;
    n: number;
  }>(
    `select s.id, s.name, s.key, s.asks, s.seen_at, (select count(*)::int from site_visit v where v.site_id = s.id and v.at > now() - interval '28 days') as n
     from site s where s.business_id = $1 order by s.created_at`,
    [use.actor.businessId],
  );
  return rows.map(({ key, seen_at, n, ...row }) => ({
    ...row,
    code: `<script src="${use.runtime.settings.publicUrl}/visits.js" data-site="${key}"${row.asks ? ' data-asks' : ''} defer></script>`,
    seenAt: seen_at?.toISOString() ?? null,
    visits: n,
  }));
}

export const NewSite = z.object({ name: z.string().trim().min(1, 'Say which site it is').max(100), asks: z.boolean() });
const MOST_SITES = 20;

export async function addSite(tx: Write, { name, asks }: z.output<typeof NewSite>): Promise<{ id: string }> {
  const { businessId } = tx.actor;
  const { rows } = await tx.db.query<{ n: number }>('select count(*)::int as n from site where business_id = $1', [
    businessId,
  ]);
  if (rows[0]!.n >= MOST_SITES)
    throw new Refusal(409, 'too-many', `There are ${MOST_SITES} sites already. Remove one that is gone.`);
  const id = uuidv7();
  await tx.db.query('insert into site (id, business_id, name, key, asks, created_at) values ($1, $2, $3, $4, $5, $6)', [
    ...[id, businessId, name, randomBytes(18).toString('base64url'), asks, new Date(tx.runtime.now())],
  ]);
  tx.note('site.add', id, { name, asks });
  return { id };
}

/** Its visits by people nobody knows go with it; those of people who are known stay with them. */
export async function removeSite(tx: Write, id: string): Promise<void> {
  const { rowCount } = await tx.db.query('delete from site where id = $1 and business_id = $2', [
    id,
    tx.actor.businessId,
  ]);
  if (!rowCount) throw notHere('site');
  tx.note('site.remove', id);
}
