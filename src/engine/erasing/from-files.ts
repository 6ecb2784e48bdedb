import type { Db } from '../../db/db.ts';
import type { TableReader } from '../../tables/table-reader.ts';
import { KnownTab, whichTab } from '../../tables/which-tab.ts';
import { asCsv } from '../../tables/write.ts';
import { holds, type Marks } from './marks.ts';

/**
 * Erases people from the files that were handed in or brought in. A file with one of them in it becomes the table that was read of it, with their
 * rows emptied: the others keep their numbers, so that what is read again is still known. One that cannot be read as a table is emptied whole.
 * Before the record itself: cut off in between, the person is still there to be erased once more.
 */
export async function eraseFromFiles(
  parts: { db: Db; tables: TableReader },
  businessId: string,
  marks: Marks,
): Promise<void> {
  const { db, tables } = parts;
  const files = await db.query<{ id: string; tab: unknown }>(
    `select f.id, s.settings -> 'tab' as tab from stored_file f join source s on s.id = f.source_id where f.business_id = $1 and f.size > 0`,
    [businessId],
  );
  for (const { id, tab } of files.rows) {
    const file = (await db.query<{ bytes: Buffer }>('select bytes from stored_file where id = $1', [id])).rows[0];
    if (!file || file.bytes.length === 0) continue;
    const rows: string[][] = [];
    let found = false;
    try {
      const known = KnownTab.nullable()
        .catch(null)
        .parse(tab ?? null);
      const chosen = whichTab(await tables.tabs(file.bytes), known);
      for await (const batch of tables.rows(file.bytes, chosen?.name ?? null))
        for (const { n, cells } of batch) {
          while (rows.length < n - 1) rows.push(['']);
          const theirs = holds(cells.join(' '), marks);
          found ||= theirs;
          rows.push(theirs ? [''] : cells);
        }
    } catch {
      // No table: what cannot be looked through is not kept, if anything of them can be seen in it.
      if (!holds(file.bytes.toString('latin1'), marks)) continue;
      await db.query(
        `update stored_file set bytes = '', size = 0, problem = coalesce(problem, 'Emptied: somebody in it was erased.') where id = $1`,
        [id],
      );
      continue;
    }
    if (!found) continue;
    const bytes = Buffer.from(asCsv(rows), 'utf8');
    await db.query('update stored_file set bytes = $2, size = $3 where id = $1', [id, bytes, bytes.length]);
  }
}
