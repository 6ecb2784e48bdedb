/** Rows looked at for the header. */
const LOOKED_AT = 15;

const wordLike = (cell: string) =>
  cell !== '' && cell.length <= 80 && !/^[\d\s.,:+()/-]+$/.test(cell) && !cell.includes('@');

/**
 * The index of the row that names the columns: among the first rows the one with the most cells that read like names, none of
 * them twice. Null when no row does: then columns are called A, B, C.
 */
export function findHeaderRow(rows: readonly (readonly string[])[]): number | null {
  const width = Math.max(0, ...rows.slice(0, 50).map((row) => row.filter((cell) => cell.trim() !== '').length));
  let best: { index: number; score: number } | null = null;
  for (const [index, row] of rows.slice(0, LOOKED_AT).entries()) {
    const cells = row.map((cell) => cell.trim()).filter((cell) => cell !== '');
    if (cells.length === 0 || cells.length < Math.ceil(width * 0.6)) continue;
    const names = cells.filter(wordLike).length / cells.length;
    const distinct = new Set(cells.map((cell) => cell.toLowerCase())).size / cells.length;
    const score = names * distinct - index * 0.02;
    if (names > 0.6 && distinct > 0.8 && (best === null || score > best.score)) best = { index, score };
  }
  return best?.index ?? null;
}

/** "A" for 0, "Z" for 25, "AA" for 26. */
export function columnLetter(index: number): string {
  let letters = '';
  for (let n = index + 1; n > 0; n = Math.floor((n - 1) / 26))
    letters = String.fromCharCode(65 + ((n - 1) % 26)) + letters;
  return letters;
}

/** Names for columns from a header row: empty ones get their letter, repeated ones a number. */
export function columnNames(header: readonly string[] | null, width: number): string[] {
  const taken = new Set<string>();
  return Array.from({ length: width }, (_, i) => {
    const base = (header?.[i] ?? '').trim().slice(0, 200) || `Column ${columnLetter(i)}`;
    let name = base;
    for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${base} ${n}`;
    taken.add(name.toLowerCase());
    return name;
  });
}
