import { expect } from 'chai';
import type { FileColumn } from '../../src/core/sheets/match-columns.ts';
import type { LeadCard } from '../../src/core/source/lead-card.ts';
import { entryOf, judgeRow } from '../../src/engine/intake/import-row.ts';
import { type FileSettings, READ_BATCH, readImportFile } from '../../src/engine/intake/read-import-file.ts';
import type { TableRow } from '../../src/tables/table.ts';

const row = (n: number, ...cells: string[]): TableRow => ({ n, cells });

/** A file whose rows come in portions of `size`, as the reader's thread gives them. */
const fileOf = (rows: TableRow[], size = 3) => ({
  tabs: async () => [],
  async *rows() {
    for (let at = 0; at < rows.length; at += size) yield rows.slice(at, at + size);
  },
});
async function read(rows: TableRow[], settings: Partial<FileSettings> = {}, size?: number) {
  const written: TableRow[][] = [];
  const found = await readImportFile(
    fileOf(rows, size),
    Buffer.alloc(0),
    { columns: [], ...settings },
    async (part) => void written.push(part),
  );
  return { ...found, written };
}
const names = (columns: readonly FileColumn[]) => columns.map(({ name }) => name);

describe('reading a file of people', () => {
  const people = [
    row(1, 'Autumn term'),
    row(3, 'Name', 'Email', 'Phone'),
    row(4, 'Nadia Okafor', 'nadia@example.org', '07700 900142'),
    row(5, 'Jon Reyes', 'jon@example.org', ''),
  ];

  it('finds the column names below a title, and takes only what stands below them', async () => {
    const { headerRow, columns, count, written } = await read(people);
    expect(headerRow).to.equal(3);
    expect(names(columns)).to.deep.equal(['Name', 'Email', 'Phone']);
    expect(count).to.equal(2);
    expect(written.flat().map(({ n }) => n)).to.deep.equal([4, 5]);
  });

  it('takes the row it is told, and with none every row counts and columns are called by their letter', async () => {
    expect((await read(people, { headerRow: 4 })).count).to.equal(1);
    const without = await read(people, { headerRow: null });
    expect(without.headerRow).to.equal(null);
    expect(without.count).to.equal(4);
    expect(names(without.columns)).to.deep.equal(['Column A', 'Column B', 'Column C']);
  });

  it('says of an empty file that nothing is in it, and has no column', async () => {
    expect(await read([])).to.deep.include({ headerRow: null, columns: [], count: 0 });
  });

  it('is written part by part, however the reader hands it over, and no row twice or left out', async () => {
    const many = [
      row(1, 'Name', 'Email'),
      ...Array.from({ length: 2500 }, (_, i) => row(i + 2, `P ${i}`, `p${i}@a.example`)),
    ];
    for (const size of [1, 700, 1000, 2501]) {
      const { written, count } = await read(many, {}, size);
      expect(count).to.equal(2500);
      expect(written.flat().map(({ n }) => n)).to.deep.equal(many.slice(1).map(({ n }) => n));
      // The last batch may be whatever is left, and no other is more than a reader's portion beyond a batch.
      for (const part of written) expect(part.length).to.be.at.most(READ_BATCH + size);
    }
  });
});

describe('a row of people, looked at', () => {
  const columns: FileColumn[] = [
    { id: 'name', name: 'Name', index: 0 },
    { id: 'email', name: 'Email', index: 1 },
    { id: 'phone', name: 'Phone', index: 2 },
  ];
  const card: LeadCard = {
    fields: { full_name: 'name', email: 'email', phone: 'phone' },
    consent: { kind: 'not_asked' },
  };
  const judged = (...cells: string[]) => judgeRow({ n: 4, cells }, columns, card, 'GB');

  it('is good when somebody can be recognised by it, by address or number', () => {
    expect(judged('Nadia Okafor', 'Nadia@Example.org', '07700 900142')).to.deep.equal({
      n: 4,
      verdict: 'good',
      problem: null,
      identities: [
        ['email', 'nadia@example.org'],
        ['phone', '+447700900142'],
      ],
    });
    expect(judged('Nadia', '', '07700 900142').verdict).to.equal('good');
  });

  it('is good with one that is wrong when the other is right, and says which is wrong', () => {
    const { verdict, problem } = judged('Nadia', 'nadia@', '07700 900142');
    expect(verdict).to.equal('good');
    expect(problem).to.equal('"nadia@" is not an email address.');
    expect(judged('Nadia', 'nadia@example.org', 'ask her').problem).to.equal('"ask her" is not a phone number.');
  });

  it('is refused when nobody can be reached by it, with the reason', () => {
    expect(judged('Nadia').problem).to.equal('There is no email and no phone: nobody can be recognised or reached.');
    expect(judged('Nadia', 'nadia@', 'x')).to.deep.include({
      verdict: 'refused',
      problem: '"nadia@" is not an email address, "x" is not a phone number: nobody can be recognised or reached.',
    });
    const long = judged('', `${'a'.repeat(200)}@`).problem!;
    expect(long.length).to.be.below(160);
  });

  it('keeps what was wrong with the row itself, and a row cut short has empty cells', () => {
    const cut = { n: 9, cells: ['Nadia', 'nadia@example.org'], trouble: 'A cell was cut off' };
    expect(judgeRow(cut, columns, card, 'GB')).to.include({ verdict: 'good', problem: 'A cell was cut off.' });
    expect(entryOf(cut, columns)).to.deep.equal({
      id: 'row:9',
      number: 9,
      cells: [
        { key: 'name', label: 'Name', value: 'Nadia' },
        { key: 'email', label: 'Email', value: 'nadia@example.org' },
        { key: 'phone', label: 'Phone', value: '' },
      ],
    });
  });
});
