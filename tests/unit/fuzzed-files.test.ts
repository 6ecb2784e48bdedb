import { expect } from 'chai';
import fc from 'fast-check';
import { readCsv } from '../../src/tables/csv.ts';
import { sniff } from '../../src/tables/sniff.ts';
import { LIMITS, TableProblem, type TableRow } from '../../src/tables/table.ts';
import { asCsv, asXlsx } from '../../src/tables/write.ts';
import { readXlsx, workbookTabs } from '../../src/tables/xlsx.ts';

const all = async (rows: AsyncIterable<TableRow>): Promise<TableRow[]> => {
  const found: TableRow[] = [];
  for await (const row of rows) found.push(row);
  return found;
};

/** What anything at all may come to: rows, or a reason in words. */
async function taken(bytes: Buffer): Promise<TableRow[] | null> {
  try {
    if (sniff(bytes) === 'csv') return await all(readCsv(bytes, LIMITS));
    await workbookTabs(bytes);
    return await all(readXlsx(bytes, null, LIMITS));
  } catch (error) {
    expect(error, String(error)).to.be.instanceOf(TableProblem);
    expect((error as Error).message).to.match(/\w+ \w+.*[.]$/s);
    return null;
  }
}

/** A file with some of its bytes changed, left out or doubled. */
const mutated = (file: Buffer) =>
  fc
    .array(
      fc.record({
        at: fc.integer({ min: 0, max: Math.max(0, file.length - 1) }),
        does: fc.constantFrom('set', 'cut', 'double'),
        byte: fc.integer({ min: 0, max: 255 }),
      }),
      { minLength: 1, maxLength: 6 },
    )
    .map((changes) =>
      changes.reduce((bytes, { at, does, byte }) => {
        const [before, after] = [bytes.subarray(0, at), bytes.subarray(at)];
        if (does === 'cut') return Buffer.concat([before, after.subarray(1 + (byte % 40))]);
        if (does === 'double') return Buffer.concat([before, after.subarray(0, byte), after]);
        return Buffer.concat([before, Buffer.from([byte]), after.subarray(1)]);
      }, file),
    );

const ROWS = [
  ['Name', 'Email', 'Note'],
  ['Ada "Lovelace"', 'ada@example.org', 'two\nlines'],
  ['Žofie, Nováková', 'zofie@example.org', '=1+1'],
  ['', '', ''],
  ['Bo', 'bo@example.org', '0044'],
];

describe('files as the world sends them, and worse', () => {
  it('any bytes at all are rows or a reason in words', async () => {
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 600 }), async (bytes) => {
        await taken(Buffer.from(bytes));
      }),
      { numRuns: 300 },
    );
  }).timeout(20_000);

  it('a CSV with bytes changed, lost or doubled', async () => {
    const file = Buffer.from(asCsv(ROWS), 'utf8');
    expect((await taken(file))?.length).to.equal(4);
    await fc.assert(
      fc.asyncProperty(mutated(file), async (bytes) => {
        await taken(bytes);
      }),
      { numRuns: 300 },
    );
  }).timeout(20_000);

  it('a workbook with bytes changed, lost or doubled', async () => {
    const file = await asXlsx(ROWS);
    expect((await taken(file))?.[1]?.cells[0]).to.equal('Ada "Lovelace"');
    await fc.assert(
      fc.asyncProperty(mutated(file), async (bytes) => {
        await taken(bytes);
      }),
      { numRuns: 120 },
    );
  }).timeout(40_000);
});
