import type { Db } from '../../db/db.ts';
import { holdsSql, type Marks } from './marks.ts';

/**
 * Erases what stands of people where they are no lead: every place of the database that can hold one, beside what hangs on the lead itself
 * (from-record.ts) and files (from-files.ts). Whoever adds a table with people in it adds it here, or the test that looks for them in a dump fails.
 */
export async function eraseTraces(client: Db, businessId: string, marks: Marks): Promise<void> {
  const { leadIds, addresses, numbers, names } = marks;
  const found = [businessId, addresses, numbers];
  // What came in and became no lead: refused, set aside, kept while a source was being set up.
  const arrivals = await client.query<{ id: string }>(
    `delete from arrival where business_id = $1 and lead_id is null
       and (${holdsSql('fields::text', 2)} or ${holdsSql(`encode(body, 'escape')`, 2)}) returning id`,
    found,
  );
  const gone = arrivals.rows.map((row) => row.id);
  await client.query('delete from needs_you where business_id = $1 and arrival_id = any($2)', [businessId, gone]);
  await client.query(
    `update workflow set sample_arrival_id = null where business_id = $1 and (sample_arrival_id = any($2)
       or sample_arrival_id in (select id from arrival where lead_id = any($3)))`,
    [businessId, gone, leadIds],
  );
  // What they wrote before anybody knew who they are.
  await client.query(
    `delete from conversation where business_id = $1 and lead_id is null and ${holdsSql('sender', 2)}`,
    found,
  );
  await client.query(
    `delete from inbound where business_id = $1 and lead_id is null and (${holdsSql('sender', 2)} or ${holdsSql('text', 2)} or ${holdsSql(`coalesce(raw, '')`, 2)})`,
    found,
  );
  // Rows of files that were brought in: the row stays, so that the others keep their numbers.
  await client.query(
    `update import_row i set cells = '[]' from source s where s.id = i.source_id and s.business_id = $1 and ${holdsSql('i.cells::text', 2)}`,
    found,
  );
  await sheets(client, businessId, marks);
  // Our own notes about what was done: that it was done stays, what it was about goes.
  await client.query(
    `update audit set detail = '{}' where business_id = $1 and detail <> '{}'
       and (subject = any($4) or ${holdsSql('detail::text', 2)} or lower(detail::text) like any($5) or detail::text like any($6))`,
    [...found, leadIds, names, leadIds.map((id) => `%${id}%`)],
  );
  await client.query(
    `update bulk_work set choice = jsonb_set(choice, '{search}', '""') where business_id = $1 and state <> 'running'
       and (${holdsSql(`coalesce(choice ->> 'search', '')`, 2)} or lower(coalesce(choice ->> 'search', '')) like any($4))`,
    [...found, names],
  );
  await client.query(
    `delete from needs_you where business_id = $1 and (${holdsSql('detail', 2)} or ${holdsSql('title', 2)} or lower(detail) like any($4))`,
    [...found, names],
  );
}

/** Rows with them in it, and what a step of theirs wrote into others; the history of both. */
async function sheets(client: Db, businessId: string, { leadIds, addresses, numbers }: Marks): Promise<void> {
  const ours = `r.tab_id in (select t.id from sheet_tab t join sheet s on s.id = t.sheet_id where s.business_id = $1)`;
  const rows = await client.query<{ id: string; tab_id: string }>(
    `delete from sheet_row r where ${ours} and (${holdsSql('r.cells::text', 2)}
       or exists (select from sheet_row_change c where c.row_id = r.id and c.tab_id = r.tab_id and c.lead_id = any($4) and c.before = '{}'))
     returning r.id, r.tab_id`,
    [businessId, addresses, numbers, leadIds],
  );
  const changed = await client.query<{ tab_id: string }>(
    `update sheet_row r set cells = r.cells - array(select jsonb_object_keys(c.after) from sheet_row_change c
         where c.row_id = r.id and c.tab_id = r.tab_id and c.lead_id = any($2)), updated_at = now()
     where ${ours} and exists (select from sheet_row_change c where c.row_id = r.id and c.tab_id = r.tab_id and c.lead_id = any($2)) returning r.tab_id`,
    [businessId, leadIds],
  );
  await client.query(
    `delete from sheet_row_change r where ${ours} and (r.row_id = any($4) or r.lead_id = any($5) or ${holdsSql('r.before::text || r.after::text', 2)})`,
    [businessId, addresses, numbers, rows.rows.map((row) => row.id), leadIds],
  );
  // Whoever has the sheet open sees it.
  await client.query('update sheet_tab set revision = revision + 1 where id = any($1)', [
    [...rows.rows, ...changed.rows].map((row) => row.tab_id),
  ]);
}
