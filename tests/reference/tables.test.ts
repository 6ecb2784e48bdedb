import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { expect } from 'chai';
import * as sheetjs from 'xlsx';
import { isDateFormat, serialDate } from '../../src/core/fields/spreadsheet-date.ts';
import { readCsv } from '../../src/tables/csv.ts';
import { guessDelimiter } from '../../src/tables/sniff.ts';
import { LIMITS, type TableRow } from '../../src/tables/table.ts';
import { readXlsx, workbookTabs } from '../../src/tables/xlsx.ts';

const folderOf = (name: string) => dirname(createRequire(import.meta.url).resolve(`${name}/package.json`));

async function all(rows: AsyncGenerator<TableRow>): Promise<TableRow[]> {
  const found: TableRow[] = [];
  for await (const row of rows) found.push(row);
  return found;
}
const csv = async (text: string | Buffer) => (await all(readCsv(Buffer.from(text), LIMITS))).map((row) => row.cells);

/** Source: csv-spectrum 2.0.0, a set of CSV files with the rows they hold, after RFC 4180 §2. */
describe('CSV against csv-spectrum (RFC 4180)', () => {
  const folder = folderOf('csv-spectrum');
  // location_coordinates has its expected rows in another shape.
  const names = readdirSync(join(folder, 'csvs'))
    .map((file) => file.replace('.csv', ''))
    .filter((name) => name !== 'location_coordinates');

  it('has the whole set', () => expect(names).to.have.length(11));
  for (const name of names)
    it(`reads ${name} as the set says`, async () => {
      const expected = JSON.parse(readFileSync(join(folder, 'json', `${name}.json`), 'utf8')) as Record<
        string,
        string
      >[];
      const [header, ...rows] = await csv(readFileSync(join(folder, 'csvs', `${name}.csv`)));
      expect(rows.map((row) => Object.fromEntries(header!.map((key, i) => [key, row[i] ?? ''])))).to.deep.equal(
        expected,
      );
    });
});

describe('CSV as it is found in the wild', () => {
  it('knows separators, line ends and byte-order marks', async () => {
    const rows = [
      ['Name', 'Email'],
      ['Ada', 'ada@example.org'],
    ];
    for (const text of [
      'Name,Email\r\nAda,ada@example.org\r\n',
      'Name;Email\nAda;ada@example.org',
      'Name\tEmail\rAda\tada@example.org\r',
      '\uFEFFName|Email\nAda|ada@example.org\n',
    ])
      expect(await csv(text), JSON.stringify(text)).to.deep.equal(rows);
    expect(await csv(Buffer.from('\uFEFFName,Email\nAda,ada@example.org\n', 'utf16le'))).to.deep.equal(rows);
    expect(await csv(Buffer.from('Nom;Ville\nZo\u00e9;Orl\u00e9ans\n', 'latin1'))).to.deep.equal([
      ['Nom', 'Ville'],
      ['Zo\u00e9', 'Orl\u00e9ans'],
    ]);
  });
  it('a comma inside quotes does not make a comma file of a semicolon file', () => {
    expect(guessDelimiter('a;b;c\n"x, y, z, w";2;3\n1;2;3\n')).to.equal(';');
  });
  it('keeps a stray quote and ragged rows', async () => {
    expect(await csv('size,what\n5" pipe,x\nshort\na,b,c\n')).to.deep.equal([
      ['size', 'what'],
      ['5" pipe', 'x'],
      ['short'],
      ['a', 'b', 'c'],
    ]);
  });
  it('says where an open quote makes the rest unreadable', async () => {
    try {
      await csv('a,b\n1,"never closed\n2,3\n');
      expect.fail('it was read');
    } catch (error) {
      expect((error as Error).message).to.match(/never closed/);
    }
  });
});

/** Values of ECMA-376 Part 1 §18.17.4, as xlsx 0.18.5 (SSF) gives them. */
describe('serial dates (ECMA-376)', () => {
  for (const [serial, text] of [
    [1, '1900-01-01'],
    [59, '1900-02-28'],
    [60, '1900-02-29'],
    [61, '1900-03-01'],
    [36526, '2000-01-01'],
    [45292, '2024-01-01'],
    [45658.5, '2025-01-01T12:00:00'],
    [41922.38135416667, '2014-10-10T09:09:09'],
    [0.38135416666666666, '09:09:09'],
    [31682, '1986-09-27'],
  ] as const)
    it(`${serial} is ${text}`, () => expect(serialDate(serial)).to.equal(text));
  it('counts from 1904 where the workbook says so', () => {
    expect([serialDate(0, true), serialDate(1, true)]).to.deep.equal(['1904-01-01', '1904-01-02']);
  });
  it('agrees with SheetJS on which formats are dates', () => {
    for (const code of [
      'm/d/yy',
      'DD/MM/YYYY',
      'yyyy-mm-dd hh:mm',
      '[h]:mm:ss',
      '[$-409]d-mmm-yy',
      'General',
      '0.00',
      '#,##0 "days"',
      '0.00E+00',
      '[Red]0',
      '@',
    ])
      expect(isDateFormat(164, code), code).to.equal(sheetjs.SSF.is_date(code));
  });
});

/** Workbooks other programs have written (LibreOffice, Excel and others), shipped with xlsx-stream-reader 1.1.1; judged by SheetJS. */
describe('workbooks not written by our own library', () => {
  const folder = folderOf('xlsx-stream-reader');
  const read = async (file: string, tab: string | null = null) =>
    all(readXlsx(readFileSync(join(folder, file)), tab, LIMITS));

  it('a contact list: dates as dates, the email cell as its text', async () => {
    const rows = await read('test/predefined_formats.xlsx');
    expect(rows).to.have.length(7);
    expect(rows[0]!.cells.slice(0, 3)).to.deep.equal(['Nome', 'Cognome', 'sesso']);
    expect(rows[1]!.cells[3]).to.equal('1986-09-27');
    const email = rows[0]!.cells.findIndex((name) => /mail/i.test(name));
    expect(rows.slice(1).map((row) => row.cells[email])).to.deep.equal(Array(6).fill('test@gmail.com'));
  });
  it('values, not formulas', async () => {
    let formulas = 0;
    for (const file of ['example1', 'example2', 'example2a', 'example3', 'example3a', 'example4']) {
      const path = `example/${file}.xlsx`;
      const book = sheetjs.read(readFileSync(join(folder, path)), { cellFormula: true });
      for (const name of book.SheetNames) {
        const rows = new Map((await read(path, name)).map((row) => [row.n, row.cells]));
        for (const [at, cell] of Object.entries(book.Sheets[name]!) as [string, sheetjs.CellObject][]) {
          if (at.startsWith('!') || cell.f === undefined || cell.t !== 'n') continue;
          formulas += 1;
          const { r, c } = sheetjs.utils.decode_cell(at);
          expect(Number(rows.get(r + 1)?.[c]), `${file} ${name} ${at} =${cell.f}`).to.be.closeTo(Number(cell.v), 1e-9);
        }
      }
    }
    expect(formulas).to.be.greaterThan(0);
  });
  it('a used range of a million rows with two in it', async () => {
    expect((await read('example/example5.xlsx')).length).to.equal(2);
  });
  it('rich text, a second tab, missing number formats', async () => {
    expect((await read('test/richtext.xlsx')).length).to.be.greaterThan(0);
    expect(await workbookTabs(readFileSync(join(folder, 'test/file_with_2_sheets.xlsx')))).to.have.length(2);
    expect((await read('test/nonumfmt.xlsx')).length).to.be.greaterThan(0);
  });
  for (const file of [
    'test/uppercase_sheet_name.xlsx',
    'test/import.xlsx',
    'test/predefined_formats.xlsx',
    'example/example1.xlsx',
    'example/example3.xlsx',
    'test/richtext.xlsx',
  ])
    it(`${file} has the same filled cells as SheetJS finds`, async () => {
      const bytes = readFileSync(join(folder, file));
      const book = sheetjs.read(bytes, { cellDates: false });
      const sheet = book.Sheets[book.SheetNames[0]!]!;
      const theirs = new Map<string, string>();
      for (const [at, cell] of Object.entries(sheet))
        if (
          !at.startsWith('!') &&
          (cell as sheetjs.CellObject).v !== undefined &&
          String((cell as sheetjs.CellObject).v) !== ''
        )
          theirs.set(
            at,
            (cell as sheetjs.CellObject).t === 'n'
              ? '#'
              : String((cell as sheetjs.CellObject).v).replace(/\r\n/g, '\n'),
          );
      const ours = new Map<string, string>();
      for (const { n, cells } of await read(file))
        for (const [i, text] of cells.entries()) {
          const at = sheetjs.utils.encode_cell({ r: n - 1, c: i });
          if (text !== '') ours.set(at, theirs.get(at) === '#' ? '#' : text.replace(/\r\n/g, '\n'));
        }
      const flags = (map: Map<string, string>) =>
        [...map].map(([at, text]) => `${at}=${text === 'true' ? 'TRUE' : text}`).sort();
      expect(flags(ours)).to.deep.equal(flags(theirs));
    });
  it('stops where it becomes too much, long before the end of ten million cells', async () => {
    const rows = Array.from({ length: 60 }, () => Array<string>(20).fill('x'));
    const sheet = sheetjs.utils.aoa_to_sheet(rows);
    const book = sheetjs.utils.book_new();
    sheetjs.utils.book_append_sheet(book, sheet, 'S');
    const bytes = sheetjs.write(book, { type: 'buffer', bookType: 'xlsx' }) as Buffer;
    const seen: number[] = [];
    try {
      for await (const row of readXlsx(bytes, null, { rows: 1000, cells: 1000 })) seen.push(row.n);
      expect.fail('it was read to the end');
    } catch (error) {
      expect((error as Error).message).to.match(/more than 1,000 cells/);
    }
  });
});
