import { type TableFormat, TableProblem } from './table.ts';

const starts = (bytes: Uint8Array, ...magic: number[]) => magic.every((byte, i) => bytes[i] === byte);

/** What a file is by its content; its name may lie. Refuses what no table can be read from. */
export function sniff(bytes: Uint8Array): TableFormat {
  if (bytes.length === 0) throw new TableProblem('empty', 'The file is empty.');
  if (starts(bytes, 0x50, 0x4b, 0x03, 0x04) || starts(bytes, 0x50, 0x4b, 0x05, 0x06)) return 'xlsx';
  if (starts(bytes, 0xd0, 0xcf, 0x11, 0xe0))
    throw new TableProblem(
      'old-workbook',
      'This is a workbook of the old kind, or one with a password. Save it as XLSX without a password, or as CSV.',
    );
  if (starts(bytes, 0x25, 0x50, 0x44, 0x46))
    throw new TableProblem('not-a-table', 'This is a PDF. Save the table as XLSX or CSV.');
  const utf16 = starts(bytes, 0xff, 0xfe) || starts(bytes, 0xfe, 0xff);
  if (!utf16 && bytes.subarray(0, 8192).includes(0))
    throw new TableProblem('not-a-table', 'This is not a table: neither XLSX nor CSV. Save it as one of them.');
  return 'csv';
}

/** The text of a CSV file: by its byte-order mark, else UTF-8, else what old spreadsheets write (windows-1252). */
export function decodeText(bytes: Uint8Array): string {
  const mark = starts(bytes, 0xff, 0xfe) ? 'utf-16le' : starts(bytes, 0xfe, 0xff) ? 'utf-16be' : null;
  if (mark) return new TextDecoder(mark).decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

const DELIMITERS = [',', ';', '\t', '|'] as const;

/** The separator that parts the first lines most evenly; a comma when nothing speaks for another. Quoted text does not count. */
export function guessDelimiter(text: string): (typeof DELIMITERS)[number] {
  const lines = text
    .slice(0, 20_000)
    // Not to nothing: a line of quoted cells with tabs between them is no empty one.
    .replace(/"(?:[^"]|"")*"/g, 'x')
    .split(/\r\n|\r|\n/)
    .filter((line) => line.trim() !== '')
    .slice(0, 20);
  let best: { delimiter: (typeof DELIMITERS)[number]; score: number } = { delimiter: ',', score: 0 };
  for (const delimiter of DELIMITERS) {
    const counts = lines.map((line) => line.split(delimiter).length - 1);
    const most = Math.max(0, ...counts);
    if (most === 0) continue;
    const usual = counts.toSorted((a, b) => a - b)[Math.floor(counts.length / 2)]!;
    const even = counts.filter((count) => count === usual).length / counts.length;
    const score = usual === 0 ? 0.1 * even : even * (1 + Math.min(usual, 50) / 100);
    if (score > best.score) best = { delimiter, score };
  }
  return best.delimiter;
}
