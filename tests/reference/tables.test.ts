import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { expect } from 'chai';
import Papa from 'papaparse';
import * as sheetjs from 'xlsx';
import { isDateFormat, serialDate } from '../../src/core/fields/spreadsheet-date.ts';
import { readCsv } from '../../src/tables/csv.ts';
import { putRows } from '../../src/tables/put-rows.ts';
import { guessDelimiter } from '../../src/tables/sniff.ts';
import { LIMITS, type TableRow } from '../../src/tables/table.ts';
import { whichTab } from '../../src/tables/which-tab.ts';
import { readXlsx, workbookTabs } from '../../src/tables/xlsx.ts';
import { workbook } from '../stage/workbook.ts';

// A CommonJS package: imported as a module, its parts that are made at run time stand under its default.
const { SSF } = (sheetjs as typeof sheetjs & { default?: typeof sheetjs }).default ?? sheetjs;

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

/** Source: Papa Parse 5.5.3, an independent reader of CSV (RFC 4180), with the files of csv-spectrum 2.0.0. */
describe('rows put into the files of csv-spectrum, read by Papa Parse', () => {
  const folder = join(folderOf('csv-spectrum'), 'csvs');
  const read = (bytes: Uint8Array) =>
    Papa.parse(
      Buffer.from(bytes)
        .toString('utf8')
        .replace(/^\uFEFF/, ''),
    ).data.filter((row) => row.some(Boolean));
  for (const name of readdirSync(folder))
    it(`${name} has one row more, and nothing else is changed`, () => {
      const before = readFileSync(join(folder, name));
      const old = read(before);
      const key = old[0]![0]!;
      const { bytes, puts } = putRows(before, key, [{ [key]: 'new, "and" odd', Added: 'ʤ' }]);
      expect(puts).to.deep.equal([{ ok: true, how: 'made' }]);
      const wide = old[0]!.length;
      expect(read(bytes)).to.deep.equal([
        [...old[0]!, 'Added'],
        ...old.slice(1),
        ['new, "and" odd', ...Array.from({ length: wide - 1 }, () => ''), 'ʤ'],
      ]);
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
  it('names the line where the quote opens, whatever stands in quotes before it and however far the rest runs on', async () => {
    for (const [text, line] of [
      ['a,b\n1,"never closed\n2,3\n4,5\n', 2],
      ['a,b\n"two\nlines","a ""quote"""\n5" pipe,x\n1,"open\n2,3\n', 5],
      ['a;b\r\n1;2\r\n"open;2\r\n3;4', 3],
    ] as const)
      try {
        await csv(text);
        expect.fail('it was read');
      } catch (error) {
        expect((error as Error).message).to.equal(
          `The CSV is broken at line ${line}: a quote is opened there and never closed.`,
        );
      }
  });
  it('a NUL far down is shown to have stood there, and can be stored', async () => {
    const rows = await csv(`name,email\n${'Ada,ada@example.org\n'.repeat(2000)}Bo\0b,bob@example.org\n`);
    expect(rows.at(-1)).to.deep.equal(['Bo\uFFFDb', 'bob@example.org']);
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
      expect(isDateFormat(164, code), code).to.equal(SSF.is_date(code));
  });
});

/** A workbook made by SheetJS: cells by their address, and the state of each tab. */
function made(tabs: { name: string; hidden?: 0 | 1 | 2; cells: Record<string, sheetjs.CellObject> }[]): Buffer {
  const book = sheetjs.utils.book_new();
  for (const { name, cells } of tabs) {
    const range = sheetjs.utils.encode_range({ s: { r: 0, c: 0 }, e: { r: 30, c: 5 } });
    sheetjs.utils.book_append_sheet(book, { ...cells, '!ref': range }, name);
  }
  book.Workbook = { Sheets: tabs.map(({ name, hidden = 0 }) => ({ name, Hidden: hidden })) };
  return sheetjs.write(book, { type: 'buffer', bookType: 'xlsx', cellStyles: true }) as Buffer;
}

/** Source: ECMA-376 Part 1 §18.8.30 and §18.8.31, as SheetJS (SSF) shows the same numbers. */
describe('numbers as their cells show them, against SheetJS', () => {
  const shown: [format: string, value: number][] = [
    ['00000', 2134],
    ['000-000-0000', 2075550199],
    ['[<=9999999]###-####;(###) ###-####', 2075550199],
    ['[<=9999999]###-####;(###) ###-####', 5550199],
    ['"Nr. "0000', 12],
    ['[h]:mm', 1.104166667],
    ['[h]:mm:ss', 0.5],
    ['[mm]:ss', 0.05],
    ['+00 0000 000000', 447700900142],
  ];
  it('a postcode keeps its zeros, a phone number its groups, hours go on past a day', async () => {
    const cells = Object.fromEntries(shown.map(([z, v], i) => [`A${i + 1}`, { t: 'n', v, z } as const]));
    const rows = await all(readXlsx(made([{ name: 'S', cells }]), null, LIMITS));
    expect(rows.map((row) => row.cells[0])).to.deep.equal(shown.map(([z, v]) => SSF.format(z, v).trim()));
    expect(rows[0]!.cells[0]).to.equal('02134');
  });
  it('amounts, shares and exponents stay numbers to reckon with; 0.1 + 0.2 is shown as a spreadsheet shows it', async () => {
    const given = [
      ['#,##0.00', 1234.5, '1234.5'],
      ['# ##0', 1234567, '1234567'],
      ['0%', 0.125, '0.125'],
      ['0.00E+00', 123456, '123456'],
      ['General', 0.1 + 0.2, '0.3'],
      ['General', 1.15 * 3, '3.45'],
      ['0', 7, '7'],
    ] as const;
    const cells = Object.fromEntries(given.map(([z, v], i) => [`A${i + 1}`, { t: 'n', v, z } as const]));
    const rows = await all(readXlsx(made([{ name: 'S', cells }]), null, LIMITS));
    expect(rows.map((row) => row.cells[0])).to.deep.equal(given.map(([, , text]) => text));
  });
  it('the tab that can be seen comes first; a tab is known again by its name, else its id, else its place', async () => {
    const cell = (v: string) => ({ A1: { t: 's', v } as const });
    const bytes = made([
      { name: 'Lists', hidden: 2, cells: cell('behind the scenes') },
      { name: 'Leads', cells: cell('Name') },
      { name: 'Old', hidden: 1, cells: cell('old') },
    ]);
    const tabs = await workbookTabs(bytes);
    expect(tabs.map(({ name, hidden }) => [name, hidden])).to.deep.equal([
      ['Lists', true],
      ['Leads', false],
      ['Old', true],
    ]);
    expect((await all(readXlsx(bytes, null, LIMITS)))[0]!.cells).to.deep.equal(['Name']);
    const { id } = tabs[2]!;
    expect(whichTab(tabs, null)?.name).to.equal('Leads');
    expect(whichTab(tabs, { name: 'Old', index: 0, id: 'x' })?.name).to.equal('Old');
    expect(whichTab(tabs, { name: 'Renamed', index: 0, id })?.name).to.equal('Old');
    expect(whichTab(tabs, { name: 'Gone', index: 1, id: 'x' })?.name).to.equal('Leads');
  });
  it('an error and a formula nobody has worked out are told, with the cell they stand in', async () => {
    const sheet =
      '<worksheet><sheetData><row r="1"><c r="A1" t="str"><v>Ada</v></c><c r="B1" t="e"><f>1/0</f><v>#DIV/0!</v></c></row>' +
      '<row r="2"><c r="A2"><f>B2*2</f></c></row><row r="3"><c r="A3"><f>1+1</f><v>2</v></c><c r="AB3" t="str"><f>A1&amp;""</f><v></v></c></row></sheetData></worksheet>';
    const rows = await all(readXlsx(workbook({ 'xl/worksheets/sheet1.xml': Buffer.from(sheet) }), null, LIMITS));
    expect(rows).to.deep.equal([
      { n: 1, cells: ['Ada'], trouble: 'B1 holds the error #DIV/0!' },
      { n: 2, cells: [], trouble: 'A2 is a formula without a result: open the workbook and save it again' },
      { n: 3, cells: ['2'] },
    ]);
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
