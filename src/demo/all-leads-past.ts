import { appendRows } from '../app/sheets/tab-files.ts';
import type { Use } from '../app/use.ts';

export const TEACHERS = [
  ['Piano', 'Maud Tressel', 'Room 2'],
  ['Violin', 'Anselm Rook', 'Room 5'],
  ['Cello', 'Anselm Rook', 'Room 5'],
  ['Guitar', 'Dilys Amory', 'Room 3'],
  ['Drums', 'Perrin Vale', 'The barn'],
  ['Singing', 'Noor Calloway', 'The hall'],
];

/** The leads of the weeks before stand in the sheet, from the file it was begun with, and have the tag of the term. */
export async function fillAllLeads(use: Use, tabId: string, columns: readonly string[], tag: string): Promise<void> {
  const { rows } = await use.runtime.pool.query<{ id: string; cells: (string | null)[] }>(
    `select l.id, array[l.first_name, l.last_name, l.email, l.phone, l.answers ->> 'instrument', t.where_from ->> 'campaign'] as cells
     from lead l join lateral (select a.where_from from arrival a join source s on s.id = a.source_id where a.lead_id = l.id and s.name = 'Trial lesson form' order by a.received_at limit 1) t on true
     where l.business_id = $1 order by l.created_at`,
    [use.actor.businessId],
  );
  const teacherOf = new Map(TEACHERS.map(([plays, name]) => [plays, name]));
  await use.write((tx) =>
    appendRows(
      tx,
      tabId,
      rows.map(({ cells }) =>
        Object.fromEntries([...cells, teacherOf.get(cells[4] ?? '')].map((cell, i) => [columns[i]!, cell ?? ''])),
      ),
      'leads-this-autumn.csv',
    ),
  );
  await use.runtime.pool.query(
    `insert into lead_tag (lead_id, tag_id, at) select id, $2, created_at + interval '1 minute' from lead where id = any($1::uuid[]) on conflict do nothing`,
    [rows.map(({ id }) => id), tag],
  );
}
