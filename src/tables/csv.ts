import { CsvError, parse } from 'csv-parse';
import { storableText } from '../core/fields/field.ts';
import { unguardFormula } from '../core/fields/formula-guard.ts';
import { decodeText, guessDelimiter } from './sniff.ts';
import { Counter, MOST_CELL, type TableLimits, TableProblem, type TableRow } from './table.ts';

/** Reads CSV (RFC 4180 and what is found in the wild: other separators and line ends, ragged rows, stray quotes). */
export async function* readCsv(bytes: Uint8Array, limits: TableLimits): AsyncGenerator<TableRow> {
  const text = decodeText(bytes);
  const delimiter = guessDelimiter(text);
  const parser = parse({
    bom: true,
    delimiter,
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
      yield { n, cells: record.map((cell) => storableText(unguardFormula(cell.slice(0, MOST_CELL)))) };
    }
  } catch (error) {
    if (error instanceof TableProblem) throw error;
    const open = error instanceof CsvError && error.code === 'CSV_QUOTE_NOT_CLOSED';
    const line = open
      ? ` at line ${openQuoteLine(text, delimiter)}`
      : error instanceof CsvError && typeof error.lines === 'number'
        ? ` at line ${error.lines}`
        : '';
    throw new TableProblem(
      'broken-csv',
      `The CSV is broken${line}: ${open ? 'a quote is opened there and never closed' : 'it breaks off'}.`,
    );
  }
}

/** The line, counting from 1, where the last quote is opened: one that stands where a cell begins (RFC 4180 §2.5). */
function openQuoteLine(text: string, delimiter: string): number {
  let line = 1;
  let opened = 1;
  let within = false;
  let begins = true;
  for (let i = text.startsWith('\uFEFF') ? 1 : 0; i < text.length; i++) {
    const c = text[i]!;
    if (c === '"' && within) {
      if (text[i + 1] === '"') i += 1;
      else within = false;
    } else if (c === '"' && begins) {
      within = true;
      opened = line;
    }
    if (c === '\n' || (c === '\r' && text[i + 1] !== '\n')) line += 1;
    begins = !within && (c === delimiter || c === '\n' || c === '\r');
  }
  return opened;
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
