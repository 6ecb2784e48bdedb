export interface Folder<Row> {
  /** Its name; empty for what is in none. */
  name: string;
  rows: Row[];
}

/** Rows by the folder each is kept in, by name; what is in none comes first, and by itself where there are no folders. In a folder they keep their order. */
export function inFolders<Row>(rows: readonly Row[], folderOf: (row: Row) => string): Folder<Row>[] {
  const folders = new Map<string, Row[]>();
  for (const row of rows) folders.set(folderOf(row), [...(folders.get(folderOf(row)) ?? []), row]);
  return [...folders]
    .map(([name, rows]) => ({ name, rows }))
    .sort((a, b) => Number(a.name !== '') - Number(b.name !== '') || a.name.localeCompare(b.name));
}
