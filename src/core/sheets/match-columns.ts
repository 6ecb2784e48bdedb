import { keyFromLabel } from '../fields/field.ts';

/** A column of a file, known by `id` for ever; `name` is what its header said last, `index` where it stood. */
export interface FileColumn {
  id: string;
  name: string;
  index: number;
}

const plain = (name: string) => name.trim().toLowerCase();

/** A key from a header: "E-mail address" gives "e_mail_address". */
function idFrom(name: string, taken: ReadonlySet<string>): string {
  const base = keyFromLabel(name) || 'column';
  let id = base;
  for (let n = 2; taken.has(id); n++) id = `${base}_${n}`;
  return id;
}

/**
 * Which column of a new file is which known one. A header with a known name is that column, wherever it stands now. A known
 * column whose name is gone, with an unknown name in its old place, has been renamed. The rest is new. Columns that are no
 * longer there stay known, without a place (index -1).
 */
export function matchColumns(known: readonly FileColumn[], names: readonly string[]): FileColumn[] {
  const matched: FileColumn[] = [];
  const free = new Set(names.keys());
  const rest: FileColumn[] = [];
  for (const column of known) {
    const index = names.findIndex((name, i) => free.has(i) && plain(name) === plain(column.name));
    if (index < 0) rest.push(column);
    else {
      free.delete(index);
      matched.push({ ...column, name: names[index]!, index });
    }
  }
  for (const column of rest) {
    const renamed = free.has(column.index);
    if (renamed) free.delete(column.index);
    matched.push(renamed ? { ...column, name: names[column.index]! } : { ...column, index: -1 });
  }
  const taken = new Set(matched.map(({ id }) => id));
  for (const index of free) {
    const id = idFrom(names[index]!, taken);
    taken.add(id);
    matched.push({ id, name: names[index]!, index });
  }
  return matched.sort((a, b) => (a.index < 0 ? 1 : b.index < 0 ? -1 : a.index - b.index));
}
