import { CsvError, parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { guardFormula, unguardFormula } from '../core/fields/formula-guard.ts';
import { folded } from '../core/outside/written-table.ts';
import { guessDelimiter, sniff } from './sniff.ts';
import { TableProblem } from './table.ts';
import { asCsv } from './write.ts';

/** Cells by column. */
export type Cells = Readonly<Record<string, string>>;
export type RowPut = { ok: true; how: 'made' | 'changed' | 'same' } | { ok: false; problem: string };

/** A row of a file: where it stands in its bytes, and what is in it. */
interface Piece {
  bytes: Uint8Array;
  cells: string[];
  changed: boolean;
}

/** Rows at the top that may be a title before the names of the columns. */
const HEADER_AMONG = 20;
const MARK = Buffer.from('\uFEFF');

/**
 * A CSV file with rows put into it: one whose key stands there already is changed in place, any other comes behind the last. Every other byte stays as whoever
 * wrote it left it: separator, line ends, quotes, order, columns that are not ours. A value that is empty changes nothing. `bytes` is null
 * where there is no file yet. Throws TableProblem where nothing can be put into it.
 */
export function putRows(
  bytes: Uint8Array | null,
  by: string,
  rows: readonly Cells[],
): { bytes: Buffer; puts: RowPut[] } {
  const columns = Object.keys(rows[0] ?? {});
  if (bytes === null || bytes.length === 0 || Buffer.from(bytes).toString('utf8').trim() === '')
    return putRows(Buffer.from(asCsv([columns])), by, rows);
  const { pieces, delimiter } = readPieces(bytes);
  const headerAt = findHeader(pieces, by);
  const header = pieces[headerAt]!;
  const ends = /\r\n|\n|\r/.exec(Buffer.from(header.bytes).toString('utf8').slice(-2))?.[0] ?? '\r\n';
  const places = new Map<string, number>();
  header.cells.forEach((name, i) => {
    if (!places.has(folded(name))) places.set(folded(name), i);
  });
  for (const name of columns)
    if (!places.has(folded(name))) {
      places.set(folded(name), header.cells.length);
      header.cells.push(guardFormula(name));
      header.changed = true;
    }
  const keyAt = places.get(folded(by))!;
  const byKey = new Map<string, Piece[]>();
  for (const piece of pieces.slice(headerAt + 1)) {
    const key = folded(unguardFormula(piece.cells[keyAt] ?? ''));
    if (key !== '') byKey.set(key, [...(byKey.get(key) ?? []), piece]);
  }
  const added: Piece[] = [];
  const put = (cells: Cells): RowPut => {
    const key = folded(cells[by] ?? '');
    if (key === '') return { ok: false, problem: `There is nothing in “${by}”, by which the row is found again.` };
    const found = byKey.get(key) ?? [];
    if (found.length > 1)
      return {
        ok: false,
        problem: `${found.length} rows of the file have “${cells[by]}” in “${by}”: nobody can tell which is meant.`,
      };
    const piece = found[0] ?? { bytes: new Uint8Array(), cells: [], changed: false };
    let changed = false;
    for (const [name, value] of Object.entries(cells)) {
      const at = places.get(folded(name))!;
      if (value === '' || unguardFormula(piece.cells[at] ?? '') === value) continue;
      // The key stands as they wrote it.
      if (found.length > 0 && at === keyAt) continue;
      while (piece.cells.length <= at) piece.cells.push('');
      piece.cells[at] = guardFormula(value);
      changed = true;
    }
    piece.changed ||= changed;
    if (found.length > 0) return { ok: true, how: changed ? 'changed' : 'same' };
    while (piece.cells.length < header.cells.length) piece.cells.push('');
    added.push(piece);
    byKey.set(key, [piece]);
    return { ok: true, how: 'made' };
  };
  const puts = rows.map(put);
  // Behind the last row that has something in it: empty lines at the end stay there.
  let last = pieces.length;
  while (last > headerAt + 1 && pieces[last - 1]!.cells.every((cell) => cell === '')) last -= 1;
  const written = ({ cells }: Piece) =>
    Buffer.from(stringify([cells], { delimiter, record_delimiter: ends, quoted_match: /[\r\n]/ }));
  const begins = pieces[0] === header && Buffer.from(bytes.subarray(0, 3)).equals(MARK) ? MARK : Buffer.alloc(0);
  const out: Buffer[] = [];
  pieces.forEach((piece, i) => {
    if (i === last) out.push(...ended(out, ends, added), ...added.map(written));
    if (!piece.changed) out.push(Buffer.from(piece.bytes));
    else out.push(...(piece === header ? [begins] : []), written(piece));
  });
  if (last === pieces.length) out.push(...ended(out, ends, added), ...added.map(written));
  return { bytes: Buffer.concat(out), puts };
}

/** What is missing of a line end before more can stand behind it. */
function ended(out: readonly Buffer[], ends: string, added: readonly Piece[]): Buffer[] {
  const before = out.at(-1)?.at(-1);
  return added.length === 0 || before === 0x0a || before === 0x0d ? [] : [Buffer.from(ends)];
}

function readPieces(bytes: Uint8Array): { pieces: Piece[]; delimiter: string } {
  if (sniff(bytes) === 'xlsx')
    throw new TableProblem('workbook', 'The file is a workbook (XLSX). Rows are written to CSV files: save it as one.');
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw new TableProblem('not-utf-8', 'The file is not written in UTF-8. Save it as “CSV UTF-8”.');
  }
  const delimiter = guessDelimiter(text);
  try {
    const records = parse(Buffer.from(bytes), {
      ...{ bom: true, delimiter, info: true, relax_column_count: true, relax_quotes: true, skip_empty_lines: false },
      record_delimiter: ['\r\n', '\n', '\r'],
      max_record_size: 2_000_000,
    }) as unknown as { record: string[]; info: { bytes: number } }[];
    let at = 0;
    const pieces = records.map(({ record, info }) => {
      const piece = { bytes: bytes.subarray(at, info.bytes), cells: record, changed: false };
      at = info.bytes;
      return piece;
    });
    return { pieces, delimiter };
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    throw new TableProblem('broken-csv', `The CSV is broken at line ${error.lines ?? 1}: put that right in the file.`);
  }
}

/** The row with the names of the columns: the first that has the key's, else the first with anything in it. */
function findHeader(pieces: readonly Piece[], by: string): number {
  const named = pieces
    .slice(0, HEADER_AMONG)
    .findIndex(({ cells }) => cells.some((cell) => folded(cell) === folded(by)));
  return named >= 0 ? named : pieces.findIndex(({ cells }) => cells.some((cell) => cell.trim() !== ''));
}

/** The names of the columns of a CSV file: its first row with anything in it. Throws TableProblem. */
export function columnsOf(bytes: Uint8Array): string[] {
  if (bytes.length === 0) return [];
  const { pieces } = readPieces(bytes);
  const first = pieces.find(({ cells }) => cells.some((cell) => cell.trim() !== ''));
  return [
    ...new Map(
      (first?.cells ?? []).filter((cell) => cell.trim() !== '').map((name) => [folded(name), name.trim()]),
    ).values(),
  ];
}
