import { z } from 'zod';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** What can be renamed and kept in folders, each with the table it stands in and how it is called. Workflows have theirs (app/workflows). */
const TABLE = {
  source: { table: 'source', words: 'source' },
  list: { table: 'nurture_list', words: 'list' },
  connection: { table: 'connection', words: 'connection' },
  sheet: { table: 'sheet', words: 'sheet' },
  email_template: { table: 'email_template', words: 'template' },
  chat_template: { table: 'chat_template', words: 'template' },
  chat_form: { table: 'chat_form', words: 'form' },
  segment: { table: 'segment', words: 'segment' },
  pipeline: { table: 'pipeline', words: 'pipeline' },
  tag: { table: 'tag', words: 'tag' },
} as const;
export type FolderKind = keyof typeof TABLE;
export const FOLDER_KINDS = Object.keys(TABLE) as [FolderKind, ...FolderKind[]];

const named = z.string().trim().min(1, 'Give it a name').max(100, 'The name is too long');
const folder = z.string().trim().max(60, 'The name of the folder is too long');

export const NameAndFolder = z.object({
  kind: z.enum(FOLDER_KINDS),
  name: named,
  folder,
  /** As whoever changes it has seen it: a colleague may have renamed it meanwhile. */
  was: z.object({ name: z.string().max(400), folder: z.string().max(60) }),
});

/** In which folder each of a kind is kept, by id. What is in none is left out. */
export async function foldersOf({ db, actor }: Use, kind: FolderKind): Promise<Map<string, string>> {
  const { rows } = await db.query<{ id: string; folder: string }>(
    `select id, folder from ${TABLE[kind].table} where business_id = $1 and folder <> '' and removed_at is null`,
    [actor.businessId],
  );
  return new Map(rows.map((row) => [row.id, row.folder]));
}

/** Gives something another name, or puts it into a folder. */
export async function renameOrMove(
  tx: Write,
  id: string,
  { kind, name, folder, was }: z.infer<typeof NameAndFolder>,
): Promise<void> {
  demand(tx.actor, kind === 'connection' ? 'keys' : 'build');
  const { table, words } = TABLE[kind];
  // Lists' own sources are called as the list is, and are no sources to whoever looks.
  const isOne = kind === 'source' ? `and kind <> 'list'` : '';
  const { rows } = await tx.db.query<{ taken: boolean; same: boolean }>(
    `select name = $3 and folder = $4 as same, exists (select from ${table} o where o.business_id = $2 and o.id <> t.id and o.removed_at is null and o.name = $5 ${isOne}) as taken
     from ${table} t where id = $1 and business_id = $2 and removed_at is null ${isOne} for update`,
    [id, tx.actor.businessId, was.name, was.folder, name],
  );
  const found = rows[0];
  if (!found) throw notHere(words);
  if (!found.same)
    throw new Refusal(409, 'changed', `A colleague has just renamed or moved this ${words}. Load the page again.`);
  if (found.taken && name !== was.name)
    throw new Refusal(409, 'name-taken', `There is a ${words} called “${name}” already. Choose another name.`, {
      field: 'name',
    });
  await tx.db.query(`update ${table} set name = $2, folder = $3 where id = $1`, [id, name, folder]);
  if (kind === 'list')
    await tx.db.query('update source s set name = $2 from nurture_list l where l.id = $1 and s.id = l.source_id', [
      id,
      name,
    ]);
  tx.note('thing.name', id, { kind: words, before: was, after: { name, folder } });
  tx.forget();
  tx.ring();
}
