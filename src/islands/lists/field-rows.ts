import { keyFromLabel } from '../../core/fields/field.ts';

/** A field of a list as it is edited: known by `id` while its name is typed; `key` is what members' values lie under, null until it is kept. */
export interface FieldRow {
  id: string;
  key: string | null;
  label: string;
}
interface ListField {
  key: string;
  label: string;
}

export const rowsOf = (fields: readonly ListField[]): FieldRow[] =>
  fields.map(({ key, label }) => ({ id: key, key, label }));
export const addRow = (rows: readonly FieldRow[], id: string): FieldRow[] => [...rows, { id, key: null, label: '' }];
export const removeRow = (rows: readonly FieldRow[], id: string): FieldRow[] => rows.filter((row) => row.id !== id);
export const renameRow = (rows: readonly FieldRow[], id: string, label: string): FieldRow[] =>
  rows.map((row) => (row.id === id ? { ...row, label } : row));

/** The fields to be kept: one that was kept before stays under its key whatever it is called now, a new one gets a key nothing else has. Without names, none. */
export function fieldsOf(rows: readonly FieldRow[]): ListField[] {
  const taken = new Set(rows.flatMap((row) => row.key ?? []));
  return rows
    .filter((row) => row.label.trim() !== '')
    .map(({ key, label }) => {
      if (key !== null) return { key, label };
      const plain = keyFromLabel(label, 50) || 'field';
      let free = plain;
      for (let n = 2; taken.has(free); n++) free = `${plain}_${n}`;
      taken.add(free);
      return { key: free, label };
    });
}
