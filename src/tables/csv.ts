import { CsvError, parse } from 'csv-parse';
import { unguardFormula } from '../core/fields/formula-guard.ts';
import { decodeText, guessDelimiter } from './sniff.ts';
import { Counter, MOST_CELL, type TableLimits, TableProblem, type TableRow } from './table.ts';

/** Reads CSV (RFC 4180 and what is found in the wild: other separators and line ends, ragged rows, stray quotes). */
export async function* readCsv(bytes: Uint8Array, limits: TableLimits): AsyncGenerator<TableRow> {
  const text = decodeText(bytes);
  const parser = parse({
    bom: true,
    delimiter: guessDelimiter(text),
    relax_column_count: true,
    relax_quotes: true,
    skip_empty_lines: false,
    record_delimiter: ['\r\n', '\n', '\r'],
    max_record_size: 2_000_000,
  });
  feed(parser, text);
  const counter = new Counter(limits);
  let n = 0;
  try {
    for await (const record of parser as AsyncIterable<string[]>) {
      n += 1;
      if (record.every((cell) => cell === '')) continue;
      counter.count(record.length);
      yield { n, cells: record.map((cell) => unguardFormula(cell.slice(0, MOST_CELL))) };
    }
  } catch (error) {
    if (error instanceof TableProblem) throw error;
    const line = error instanceof CsvError && typeof error.lines === 'number' ? ` at line ${error.lines}` : '';
    const what =
      error instanceof CsvError && error.code === 'CSV_QUOTE_NOT_CLOSED'
        ? 'a quote is opened and never closed'
        : 'it breaks off';
    throw new TableProblem('broken-csv', `The CSV is broken${line}: ${what}.`);
  }
}

/** In pieces, so that the parser's own room stays small. */
function feed(parser: ReturnType<typeof parse>, text: string): void {
  const PIECE = 256 * 1024;
  let at = 0;
  const more = () => {
    while (at < text.length) {
      const piece = text.slice(at, at + PIECE);
      at += PIECE;
      if (!parser.write(piece)) {
        parser.once('drain', more);
        return;
      }
    }
    parser.end();
  };
  more();
}
