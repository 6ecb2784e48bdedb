import type { Db } from './db.ts';

/** A table that holds something of a business, and which rows of it are one's: an expression over the table's own columns, $1 the business's id. */
export interface BusinessTable {
  name: string;
  where: string;
  /** Columns that lead to rows which cannot go before these: emptied first. */
  circular: string[];
}

interface Edge {
  child: string;
  parent: string;
  column: string;
  parent_column: string;
  nullable: boolean;
}

/** What belongs to a person, or to one sign-in of theirs, whichever businesses they are in. */
const OF_PEOPLE = new Set(['person', 'session', 'passkey', 'recovery_code', 'errand', 'password_reset', 'guess']);

/** Tables that refer to something of a business without saying so to the database. */
const UNSAID: Record<string, string> = {
  booking_taken: 'arrival_id in (select id from arrival where business_id = $1)',
  result_due: 'lead_id in (select id from lead where business_id = $1)',
};

const ident = (name: string) => `"${name.replaceAll('"', '""')}"`;

/**
 * All tables with rows of one business, read from the database itself, so that none is forgotten: those that say whose they are, and those that hang on
 * such a row. In an order in which they can be emptied: what refers to a row stands before it.
 */
export async function tablesOfBusiness(db: Db): Promise<BusinessTable[]> {
  const { rows: own } = await db.query<{ name: string }>(
    `select c.relname as name from pg_class c join pg_namespace n on n.oid = c.relnamespace join pg_attribute a on a.attrelid = c.oid and a.attname = 'business_id' and not a.attisdropped
     where n.nspname = 'public' and c.relkind in ('r', 'p') and not c.relispartition order by 1`,
  );
  const { rows: edges } = await db.query<Edge>(
    `select c.relname as child, p.relname as parent, a.attname as column, pa.attname as parent_column, not a.attnotnull as nullable
     from pg_constraint k join pg_class c on c.oid = k.conrelid join pg_class p on p.oid = k.confrelid join pg_namespace n on n.oid = c.relnamespace
       join pg_attribute a on a.attrelid = c.oid and a.attnum = k.conkey[1] join pg_attribute pa on pa.attrelid = p.oid and pa.attnum = k.confkey[1]
     where k.contype = 'f' and n.nspname = 'public' and cardinality(k.conkey) = 1 and not c.relispartition order by 1, 2, 3`,
  );
  const where = new Map<string, string>();
  for (const { name } of own) if (!OF_PEOPLE.has(name)) where.set(name, 'business_id = $1');
  for (let grew = true; grew; ) {
    grew = false;
    for (const { child, parent, column, parent_column } of edges) {
      const through = where.get(parent);
      if (where.has(child) || OF_PEOPLE.has(child) || child === 'business' || through === undefined) continue;
      where.set(child, `${ident(column)} in (select ${ident(parent_column)} from ${ident(parent)} where ${through})`);
      grew = true;
    }
  }
  const inside = edges.filter(({ child, parent }) => child !== parent && where.has(child) && where.has(parent));
  const left = new Set(where.keys());
  const tables: BusinessTable[] = Object.entries(UNSAID).map(([name, where]) => ({ name, where, circular: [] }));
  const circular = new Map<string, string[]>();
  while (left.size > 0) {
    const free = [...left].filter(
      (name) =>
        !inside.some(
          (edge) => edge.parent === name && left.has(edge.child) && !circular.get(edge.child)?.includes(edge.column),
        ),
    );
    for (const name of free) {
      left.delete(name);
      tables.push({ name, where: where.get(name)!, circular: circular.get(name) ?? [] });
    }
    if (free.length > 0) continue;
    // They lead to one another: one that may be empty is emptied first.
    const loose = inside.find(
      ({ child, parent, column, nullable }) =>
        nullable && left.has(child) && left.has(parent) && !circular.get(child)?.includes(column),
    );
    if (!loose) throw new Error(`tables lead to one another: ${[...left].join(', ')}`);
    circular.set(loose.child, [...(circular.get(loose.child) ?? []), loose.column]);
  }
  return tables;
}
