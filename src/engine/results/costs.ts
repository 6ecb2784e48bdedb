import { v7 as uuidv7 } from 'uuid';
import type { CostLine } from '../../core/results/costs.ts';
import type { Db } from '../../db/db.ts';

/**
 * Puts down what advertising cost, in the transaction of `db`. What is told of a campaign on a day takes the place of all that was told of it before,
 * by whomever: a file that has only campaigns and a service that has every ad are not added up. Gives how many lines went for it.
 */
export async function keepCosts(
  db: Db,
  businessId: string,
  lines: readonly CostLine[],
  told: { via: string; at: number },
): Promise<{ replaced: number }> {
  if (lines.length === 0) return { replaced: 0 };
  const rows = JSON.stringify(
    lines.map(({ adSet, cost, ...line }) => ({ ...line, id: uuidv7(), ad_set: adSet, cost: (cost / 100).toFixed(2) })),
  );
  // One after the other: two files of the same days at the same moment would each keep theirs.
  await db.query(`select pg_advisory_xact_lock(hashtext('ad_cost ' || $1))`, [businessId]);
  const { rowCount } = await db.query(
    `delete from ad_cost c using (select distinct day, campaign from jsonb_to_recordset($2::jsonb) as x(day date, campaign text)) x
     where c.business_id = $1 and c.day = x.day and c.campaign = x.campaign`,
    [businessId, rows],
  );
  await db.query(
    `insert into ad_cost (id, business_id, day, site, campaign, ad_set, ad, cost, currency, impressions, clicks, via, read_at)
     select id, $1, day, site, campaign, ad_set, ad, cost, currency, impressions, clicks, $3, $4 from jsonb_to_recordset($2::jsonb)
       as x(id uuid, day date, site text, campaign text, ad_set text, ad text, cost numeric, currency text, impressions int, clicks int)`,
    [businessId, rows, told.via.slice(0, 100), new Date(told.at)],
  );
  return { replaced: rowCount ?? 0 };
}
