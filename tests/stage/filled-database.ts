import { randomUUID } from 'node:crypto';
import type pg from 'pg';

interface Column {
  name: string;
  type: string;
  nullable: boolean;
  hasDefault: boolean;
  generated: boolean;
}
interface Key {
  table: string;
  columns: string[];
  target: string;
  targets: string[];
}
type Row = Record<string, unknown>;

/** Columns whose words mean something to the database. */
const KNOWN: Record<string, string> = { country: 'GB', time_zone: 'Europe/London' };

/** A value of its type that no other row has, where the type has room for that. */
function someValue(type: string, n: number): unknown {
  if (type.endsWith('[]')) return [];
  if (type === 'uuid') return randomUUID();
  const room = Number(/^character varying\((\d+)\)/.exec(type)?.[1] ?? 255);
  if (type.startsWith('character') || type === 'text') return `${n} kept`.slice(0, room);
  if (['smallint', 'integer', 'bigint', 'numeric', 'real', 'double precision'].some((one) => type.startsWith(one)))
    return n;
  if (type === 'boolean') return true;
  if (type.startsWith('timestamp')) return new Date(Date.UTC(2026, 0, n));
  if (type === 'date') return '2026-01-01';
  if (type === 'jsonb' || type === 'json') return '{}';
  if (type === 'bytea') return Buffer.from([n]);
  throw new Error(`no value for the type ${type}`);
}

/**
 * Puts rows into every table that has none, whatever the version of the database is, in the order its foreign keys ask for: two of each where its keys
 * allow, all of one business. Gives how
 * many rows each table has then.
 */
export async function fillDatabase(client: pg.Client): Promise<Map<string, number>> {
  const { rows: columns } = await client.query<Column & { table: string }>(
    `select c.relname as table, a.attname as name, format_type(a.atttypid, a.atttypmod) as type, not a.attnotnull as nullable, a.atthasdef as "hasDefault",
       a.attgenerated <> '' as generated
     from pg_attribute a join pg_class c on c.oid = a.attrelid where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and a.attnum > 0
       and not a.attisdropped and c.relname <> 'mikro_orm_migrations' order by c.relname, a.attnum`,
  );
  const { rows: keys } = await client.query<Key>(
    `select k.conrelid::regclass::text as table, k.confrelid::regclass::text as target,
       (select jsonb_agg(a.attname order by x.ord) from unnest(k.conkey) with ordinality x(num, ord) join pg_attribute a on a.attrelid = k.conrelid and a.attnum = x.num) as columns,
       (select jsonb_agg(a.attname order by x.ord) from unnest(k.confkey) with ordinality x(num, ord) join pg_attribute a on a.attrelid = k.confrelid and a.attnum = x.num) as targets
     from pg_constraint k where k.contype = 'f' and k.connamespace = 'public'::regnamespace`,
  );
  // "state" in ('a', 'b'): one of those it may be.
  const { rows: checks } = await client.query<{ table: string; words: string }>(
    `select conrelid::regclass::text as table, pg_get_constraintdef(oid) as words from pg_constraint where contype = 'c' and connamespace = 'public'::regnamespace`,
  );
  const choiceOf = (table: string, column: string): string | undefined => {
    for (const { words } of checks.filter((check) => check.table.replaceAll('"', '') === table)) {
      const named = new RegExp(`\\(\\(?"?${column}"?\\)?(?:::text)? = (?:ANY|'([^']*)')`).exec(words);
      if (named) return named[1] ?? /'([^']*)'/.exec(words)?.[1];
    }
    return undefined;
  };
  const tables = [...new Set(columns.map((column) => column.table))];
  const plain = (name: string) => name.replaceAll('"', '');
  const filled = new Map<string, Row[]>();
  const hasBusiness = (table: string) =>
    columns.some((column) => column.table === table && column.name === 'business_id');
  const needs = (table: string) =>
    keys.filter(
      (key) =>
        plain(key.table) === table &&
        plain(key.target) !== table &&
        key.columns.every(
          (name) => !columns.find((column) => column.table === table && column.name === name)!.nullable,
        ),
    );
  for (let left = tables; left.length > 0; ) {
    const ready = left.filter(
      (table) =>
        needs(table).every((key) => filled.has(plain(key.target))) && (!hasBusiness(table) || filled.has('business')),
    );
    if (ready.length === 0) throw new Error(`tables that need each other: ${left.join(', ')}`);
    for (const table of ready) {
      const { rows } = await client.query<Row>(`select * from "${table}" limit 2`);
      for (const n of rows.length > 0 ? [] : [1, 2]) {
        const row: Row = {};
        for (const one of columns.filter((column) => column.table === table)) {
          if (one.generated || (one.hasDefault && one.name !== 'state')) continue;
          row[one.name] = choiceOf(table, one.name) ?? KNOWN[one.name] ?? someValue(one.type, n);
        }
        for (const key of keys.filter((key) => plain(key.table) === table)) {
          const target = filled.get(plain(key.target))?.[0];
          key.columns.forEach((name, i) => {
            if (target) row[name] = target[key.targets[i]!];
            else delete row[name];
          });
        }
        // Some columns hold an id without a key that says so: of the same business, all the same.
        for (const name of Object.keys(row)) {
          const target = filled.get(name.replace(/_id$/, ''))?.[0];
          if (name.endsWith('_id') && target && typeof target.id === 'string') row[name] = target.id;
        }
        const names = Object.keys(row);
        const { rows: put } = await client.query<Row>(
          `insert into "${table}" (${names.map((name) => `"${name}"`).join(', ')}) values (${names.map((_, i) => `$${i + 1}`).join(', ')})
           on conflict do nothing returning *`,
          Object.values(row),
        );
        rows.push(...put);
      }
      filled.set(table, rows);
    }
    left = left.filter((table) => !ready.includes(table));
  }
  const counts = new Map<string, number>();
  for (const table of tables)
    counts.set(table, (await client.query<{ n: number }>(`select count(*)::int as n from "${table}"`)).rows[0]!.n);
  return counts;
}
