/** Tables whose rows belong to a business through another, with the column that leads there. */
const THROUGH = [
  ['sheet_tab', 'sheet_id', 'sheet'],
  ['stage', 'pipeline_id', 'pipeline'],
  ['email_template_version', 'template_id', 'email_template'],
  ['chat_template_version', 'template_id', 'chat_template'],
  ['chat_form_version', 'form_id', 'chat_form'],
] as const;

/**
 * elsewhere(business, ids): those of the ids that name something of another business. Made from the tables there are, so that a new
 * one is inside the wall from its first day: every table with an id and a business, those above, and people who are members elsewhere only. Parts of a
 * table are looked at through the whole: one of them may be dropped.
 */
export const ELSEWHERE_SQL = `
do $make$ begin
  execute 'create or replace function elsewhere(business uuid, ids uuid[]) returns setof uuid language sql stable as $body$ '
    || (select string_agg(format('select id from %I where id = any($2) and business_id <> $1', c.table_name), ' union all ' order by c.table_name)
        from information_schema.columns c join information_schema.columns i using (table_schema, table_name)
        where c.table_schema = 'public' and c.column_name = 'business_id' and i.column_name = 'id' and i.data_type = 'uuid'
          and not (select k.relispartition from pg_class k where k.oid = format('%I', c.table_name)::regclass))
    || $rest$
${THROUGH.map(
  ([table, column, parent]) =>
    ` union all select t.id from ${table} t join ${parent} o on o.id = t.${column} where t.id = any($2) and o.business_id <> $1`,
).join('\n')}
 union all select r.id from sheet_row r join sheet_tab t on t.id = r.tab_id join sheet o on o.id = t.sheet_id where r.id = any($2) and o.business_id <> $1
 union all select id from business where id = any($2) and id <> $1
 union all select m.person_id from membership m where m.person_id = any($2) and m.business_id <> $1
   and not exists (select from membership o where o.person_id = m.person_id and o.business_id = $1) $rest$
    || ' $body$';
end $make$;
`;
