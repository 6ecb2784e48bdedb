import { storableText } from '../core/fields/field.ts';
import { type CellLook, lookOf, numberText } from '../core/fields/number-format.ts';
import { Counter, MOST_CELL, type TableLimits, TableProblem, type TableRow, type TableTab } from './table.ts';
import { openWorkbook, parsePart, readPart, type Workbook } from './xlsx-package.ts';

/** Most characters of all shared texts together: they stay in memory while the rows are read. */
const MOST_SHARED = 60_000_000;

export async function workbookTabs(bytes: Buffer): Promise<TableTab[]> {
  const book = await openWorkbook(bytes);
  book.zip.close();
  return book.tabs.map(({ id, name, hidden }) => ({ id, name, hidden }));
}

async function sharedTexts(book: Workbook): Promise<string[]> {
  const texts: string[] = [];
  let text = '';
  let within = false;
  let phonetic = 0;
  let total = 0;
  const name = [...book.parts.keys()].find((part) => part.endsWith('sharedstrings.xml'));
  if (!name) return texts;
  await readPart(book, name, {
    open: (tag) => {
      if (tag === 'si') text = '';
      if (tag === 'rPh') phonetic += 1;
      within = tag === 't' && phonetic === 0;
    },
    close: (tag) => {
      if (tag === 'rPh') phonetic -= 1;
      if (tag === 't') within = false;
      if (tag !== 'si') return;
      total += text.length;
      if (total > MOST_SHARED)
        throw new TableProblem(
          'too-much-text',
          'There is more text in the workbook than can be read. Split it into smaller files.',
        );
      texts.push(text.slice(0, MOST_CELL));
    },
    text: (piece) => {
      if (within) text += piece;
    },
  });
  return texts;
}

/** For each cell style, how it shows a number. */
async function cellLooks(book: Workbook): Promise<CellLook[]> {
  const codes = new Map<number, string>();
  const styles: CellLook[] = [];
  let within = false;
  const name = [...book.parts.keys()].find((part) => part.endsWith('xl/styles.xml') || part === 'styles.xml');
  if (!name) return styles;
  await readPart(book, name, {
    open: (tag, a) => {
      if (tag === 'numFmt') codes.set(Number(a.numFmtId), a.formatCode ?? '');
      if (tag === 'cellXfs') within = true;
      if (tag === 'xf' && within) styles.push(lookOf(Number(a.numFmtId ?? 0), codes.get(Number(a.numFmtId ?? 0))));
    },
    close: (tag) => {
      if (tag === 'cellXfs') within = false;
    },
  });
  return styles;
}

/** "BC12" gives 54: columns count from 0. */
function columnOf(reference: string): number | null {
  let column = 0;
  let i = 0;
  for (; i < reference.length; i++) {
    const code = reference.charCodeAt(i) & ~32;
    if (code < 65 || code > 90) break;
    column = column * 26 + code - 64;
  }
  return i === 0 || column > 16_384 ? null : column - 1;
}

/** Rows count from 1 and upwards (ECMA-376 part 1, §18.3.1.73); no program writes more than 1,048,576. */
function rowOf(written: string, before: number): number {
  const row = Number(written);
  if (!Number.isInteger(row) || row <= before || row > 1_048_576)
    throw new TableProblem(
      'bad-row',
      `The workbook is damaged: after row ${before} comes one with the number “${written.slice(0, 20)}”. Open it and save it again.`,
    );
  return row;
}

/** 54 gives "BC". */
function nameOf(column: number): string {
  let name = '';
  for (let left = column + 1; left > 0; left = Math.floor((left - 1) / 26))
    name = String.fromCharCode(65 + ((left - 1) % 26)) + name;
  return name;
}

const MOST_TOLD = 3;
const troublesOf = (troubles: string[]): string =>
  `${troubles.slice(0, MOST_TOLD).join('; ')}${troubles.length > MOST_TOLD ? `; and ${troubles.length - MOST_TOLD} more` : ''}`;

/** The rows of one tab (the first that can be seen when none is named): values, not formulas; dates as dates. */
export async function* readXlsx(bytes: Buffer, tab: string | null, limits: TableLimits): AsyncGenerator<TableRow> {
  const book = await openWorkbook(bytes);
  const chosen =
    tab === null
      ? (book.tabs.find((tab) => !tab.hidden) ?? book.tabs[0]!)
      : book.tabs.find((workbookTab) => workbookTab.name === tab);
  if (!chosen)
    throw new TableProblem(
      'no-such-tab',
      `The workbook has no tab "${tab}". It has: ${book.tabs
        .map((tab) => tab.name)
        .join(', ')
        .slice(0, 300)}.`,
    );
  const texts = await sharedTexts(book);
  const looks = await cellLooks(book);
  const counter = new Counter(limits);
  let done: TableRow[] = [];
  let cells: string[] = [];
  let rowNumber = 0;
  let column = -1;
  let type = '';
  let style = 0;
  let value = '';
  let collecting = false;
  let formula = false;
  let troubles: string[] = [];
  const cellText = (): string => {
    if (type === 's') return texts[Number(value)] ?? '';
    if (type === 'b') return value === '1' ? 'TRUE' : 'FALSE';
    if (type === 'e') {
      troubles.push(`${nameOf(column)}${rowNumber} holds the error ${value}`);
      return '';
    }
    if (type === 'inlineStr' || type === 'str' || type === 'd') return value;
    if (value === '') {
      if (formula)
        troubles.push(
          `${nameOf(column)}${rowNumber} is a formula without a result: open the workbook and save it again`,
        );
      return '';
    }
    const number = Number(value);
    if (!Number.isFinite(number)) return value;
    return numberText(number, looks[style] ?? { as: 'number' }, book.system1904);
  };
  const parsing = parsePart(book, chosen.part, {
    open: (tag, a) => {
      if (tag === 'row') {
        rowNumber = a.r === undefined ? rowNumber + 1 : rowOf(a.r, rowNumber);
        cells = [];
        troubles = [];
        column = -1;
      } else if (tag === 'c') {
        column = (a.r === undefined ? null : columnOf(a.r)) ?? column + 1;
        type = a.t ?? '';
        style = Number(a.s ?? 0);
        value = '';
        formula = false;
      } else if (tag === 'f') formula = true;
      else if (tag === 'v' || tag === 't') collecting = true;
    },
    close: (tag) => {
      if (tag === 'v' || tag === 't') collecting = false;
      else if (tag === 'c') {
        const text = storableText(cellText().slice(0, MOST_CELL));
        if (text === '') return;
        while (cells.length < column) cells.push('');
        cells[column] = text;
      } else if (tag === 'row' && (cells.length > 0 || troubles.length > 0)) {
        counter.count(cells.length);
        done.push({ n: rowNumber, cells, ...(troubles.length > 0 ? { trouble: troublesOf(troubles) } : {}) });
      }
    },
    text: (piece) => {
      if (collecting && value.length < MOST_CELL) value += piece;
    },
  });
  for await (const _ of parsing) {
    const found = done;
    done = [];
    yield* found;
  }
  book.zip.close();
}
