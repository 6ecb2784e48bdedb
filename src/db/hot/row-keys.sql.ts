import type { Db } from '../db.ts';

/**
 * Rows of a sheet by a key: the word in one column, without regard to case and spaces around it. Of the columns that a step has looked in, each row's word is
 * kept as a hash, in the order the rows stand in, so that the first row with a key is one look-up however long the tab is. An index of every cell would make
 * filling a long tab three times as slow; most columns are never looked in.
 */
export const ROW_KEYS_SQL = `
create or replace function row_key(cell text) returns uuid language sql immutable as $$
  select md5(lower(trim(cell)))::uuid where trim(cell) <> ''
$$;
create or replace function note_row_keys() returns trigger language plpgsql as $$
begin
  if not exists (select from sheet_key) then return null; end if;
  if tg_op <> 'INSERT' then
    delete from sheet_row_key k using went r, sheet_key s where s.tab_id = r.tab_id and k.tab_id = s.tab_id and k.column_id = s.column_id
      and k.key = row_key(r.cells ->> s.column_id) and k.position = r.position and k.row_id = r.id;
  end if;
  if tg_op <> 'DELETE' then
    insert into sheet_row_key (tab_id, column_id, key, position, row_id)
    select s.tab_id, s.column_id, row_key(r.cells ->> s.column_id), r.position, r.id
    from came r join sheet_key s on s.tab_id = r.tab_id where row_key(r.cells ->> s.column_id) is not null;
  end if;
  return null;
end $$;
create or replace trigger sheet_rows_came after insert on sheet_row referencing new table as came for each statement execute function note_row_keys();
create or replace trigger sheet_rows_changed after update on sheet_row referencing old table as went new table as came
  for each statement execute function note_row_keys();
create or replace trigger sheet_rows_went after delete on sheet_row referencing old table as went for each statement execute function note_row_keys();

-- From now on the words of this column are kept. The first time it reads all rows of the tab, and waits until nobody is in the midst of writing any.
create or replace function keep_row_keys(the_tab uuid, the_column text) returns void language plpgsql volatile as $$
begin
  if exists (select from sheet_key where tab_id = the_tab and column_id = the_column) then return; end if;
  lock table sheet_row in share mode;
  insert into sheet_key (tab_id, column_id) values (the_tab, the_column) on conflict do nothing;
  if not found then return; end if;
  insert into sheet_row_key (tab_id, column_id, key, position, row_id)
  select tab_id, the_column, row_key(cells ->> the_column), position, id from sheet_row
  where tab_id = the_tab and row_key(cells ->> the_column) is not null;
end $$;
-- The first row with this key.
create or replace function row_by_key(the_tab uuid, the_column text, word text) returns uuid language sql stable as $$
  select row_id from sheet_row_key where tab_id = the_tab and column_id = the_column and key = row_key(word) order by position, row_id limit 1
$$;
`;

/** The first row of a tab whose cell in this column is this word; null when there is none. The first to ask for this column waits until its words are kept. */
export async function rowByKey(client: Db, tab: string, column: string, word: string): Promise<string | null> {
  await client.query('select keep_row_keys($1, $2)', [tab, column]);
  const { rows } = await client.query<{ id: string | null }>('select row_by_key($1, $2, $3) as id', [
    tab,
    column,
    word,
  ]);
  return rows[0]!.id;
}
