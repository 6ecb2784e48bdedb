import { expect } from 'chai';
import fc from 'fast-check';
import { cellsOf, takenBy, WrittenTable } from '../../src/core/outside/written-table.ts';
import { columnsOf, putRows } from '../../src/tables/put-rows.ts';
import { TableProblem } from '../../src/tables/table.ts';

const put = (text: string | null, rows: Record<string, string>[], by = 'Email') => {
  const { bytes, puts } = putRows(text === null ? null : Buffer.from(text), by, rows);
  return { text: bytes.toString('utf8'), puts: puts.map((one) => (one.ok ? one.how : one.problem)) };
};
const problemOf = (work: () => unknown): string => {
  try {
    work();
    return '';
  } catch (error) {
    if (!(error instanceof TableProblem)) throw error;
    return error.message;
  }
};

describe('rows put into a CSV file of somebody else’s', () => {
  it('a new one comes behind the last; one whose key stands there is changed where it stands; all else stays, byte for byte', () => {
    const file = 'Name;Email;"Their note"\nAda;ADA@example.com ;"keep; me"\n"Bo ""B"" Fair";bo@example.com;\n';
    const { text, puts } = put(file, [
      { Name: 'Ada Lark', Email: 'ada@example.com' },
      { Name: 'Cy; Fair', Email: 'cy@example.com' },
      { Name: 'Bo "B" Fair', Email: 'bo@example.com' },
    ]);
    expect(puts).to.deep.equal(['changed', 'made', 'same']);
    expect(text).to.equal(
      'Name;Email;"Their note"\nAda Lark;ADA@example.com ;keep; me\n'.replace('keep; me', '"keep; me"') +
        '"Bo ""B"" Fair";bo@example.com;\n"Cy; Fair";cy@example.com;\n',
    );
  });

  it('keeps the mark, the line ends, the title above and the empty lines below; a last line without an end gets one', () => {
    expect(put('\uFEFFName,Email\r\nAda,ada@example.com\r\n\r\n\r\n', [{ Email: 'bo@example.com' }]).text).to.equal(
      '\uFEFFName,Email\r\nAda,ada@example.com\r\n,bo@example.com\r\n\r\n\r\n',
    );
    expect(
      put('Camp 2026,\n\nName,Email\nAda,ada@example.com', [{ Name: 'Bo', Email: 'bo@example.com' }]).text,
    ).to.equal('Camp 2026,\n\nName,Email\nAda,ada@example.com\nBo,bo@example.com\n');
    expect(put('Name,Email', [{ Email: 'bo@example.com' }]).text).to.equal('Name,Email\r\n,bo@example.com\r\n');
  });

  it('a column that is not there is added behind the others; the rows of others stay as they are', () => {
    expect(
      put('\uFEFFEmail\nada@example.com\n', [{ Email: 'bo@example.com', Phone: '+44 7700 900142' }]).text,
    ).to.equal('\uFEFFEmail,Phone\nada@example.com\nbo@example.com,+44 7700 900142\n');
    expect(put('Email\nada@example.com\n', [{ Email: 'ada@example.com', Phone: '1' }]).text).to.equal(
      'Email,Phone\nada@example.com,1\n',
    );
  });

  it('an empty value takes nothing away, and a formula is written as text', () => {
    expect(put('Name,Email\nAda,ada@example.com\n', [{ Name: '', Email: 'ada@example.com' }])).to.deep.equal({
      text: 'Name,Email\nAda,ada@example.com\n',
      puts: ['same'],
    });
    const formula = { Name: '=HYPERLINK("x")', Email: 'ada@example.com' };
    const once = put('Name,Email\n', [formula]);
    expect(once.text).to.equal('Name,Email\n"\'=HYPERLINK(""x"")",ada@example.com\n');
    expect(put(once.text, [formula])).to.deep.equal({ text: once.text, puts: ['same'] });
  });

  it('one row that cannot be told apart, or has no key, is refused, and the others go in', () => {
    const { text, puts } = put('Email,Name\na@example.com,1\nA@example.com,2\n', [
      { Email: 'a@example.com', Name: 'x' },
      { Email: ' ', Name: 'x' },
      { Email: 'b@example.com', Name: 'b' },
    ]);
    expect(puts).to.deep.equal([
      '2 rows of the file have “a@example.com” in “Email”: nobody can tell which is meant.',
      'There is nothing in “Email”, by which the row is found again.',
      'made',
    ]);
    expect(text).to.equal('Email,Name\na@example.com,1\nA@example.com,2\nb@example.com,b\n');
  });

  it('a file that is not there yet, or empty, is begun with its columns', () => {
    for (const file of [null, '', '\n\n'])
      expect(put(file, [{ Email: 'a@example.com', Name: 'Ada' }]).text).to.equal(
        '\uFEFFEmail,Name\r\na@example.com,Ada\r\n',
      );
  });

  it('what cannot be written to says what to do', () => {
    const rows = [{ Email: 'a@example.com' }];
    const into = (bytes: Buffer) => problemOf(() => putRows(bytes, 'Email', rows));
    expect(into(Buffer.from([0x50, 0x4b, 3, 4, 0]))).to.include('save it as one');
    expect(into(Buffer.from('Name,Email\nJos\xe9,\n', 'latin1'))).to.include('Save it as “CSV UTF-8”');
    expect(into(Buffer.from('Email\n"never closed\n'))).to.include('broken at line');
    expect(problemOf(() => columnsOf(Buffer.from('%PDF-1.7')))).to.include('PDF');
    expect(columnsOf(Buffer.from('\n Name ,Email,,name\n1,2\n'))).to.deep.equal(['name', 'Email']);
  });

  it('put in twice it is the same as once, whatever stands there and whatever is written', () => {
    const cell = fc.oneof(
      fc.string({ maxLength: 8 }),
      fc.constantFrom('a,b', 'a;b', '"', '""', 'x\ny', '\r\n', "'=1", '=1+1', '', 'ß\u0301', '\t', ' a '),
    );
    const file = fc
      .tuple(
        fc.constantFrom(',', ';', '\t', '|'),
        fc.constantFrom('\n', '\r\n'),
        fc.array(fc.tuple(cell, cell), { maxLength: 6 }),
      )
      .map(([separator, ends, rows]) =>
        [['Key', 'Name', 'Note'], ...rows.map(([a, b], i) => [`k${i}`, a, b])]
          .map((row) => row.map((one) => `"${one.replaceAll('"', '""')}"`).join(separator) + ends)
          .join(''),
      );
    const rows = fc.array(
      fc.record({ Key: fc.integer({ min: 0, max: 9 }).map((n) => `k${n}`), Name: cell, More: cell }),
      { minLength: 1, maxLength: 6 },
    );
    fc.assert(
      fc.property(file, rows, (text, given) => {
        const last = [...new Map(given.map((row) => [row.Key, row])).values()];
        const once = putRows(Buffer.from(text), 'Key', last);
        const twice = putRows(once.bytes, 'Key', last);
        expect(twice.bytes.toString()).to.equal(once.bytes.toString());
        expect(twice.puts.every((one) => one.ok && one.how === 'same')).to.equal(true);
      }),
      { numRuns: 300 },
    );
  });

  it('what a table takes: its columns, the key needed; without one a reference of its own', () => {
    const table = (more: object) =>
      WrittenTable.safeParse({
        key: 'entry',
        label: 'Entry',
        path: 'a.csv',
        columns: ['Name', 'E-mail'],
        by: 'e-mail',
        ...more,
      });
    const made = table({}).data!;
    expect(takenBy(made)).to.deep.equal([
      { key: 'name', label: 'Name', needed: false },
      { key: 'e_mail', label: 'E-mail', needed: true },
    ]);
    expect(cellsOf(made, { e_mail: 'a@example.com' }, 'r')).to.deep.equal({ Name: '', 'E-mail': 'a@example.com' });
    expect(cellsOf({ ...made, by: '' }, { name: 'Ada' }, 'r')).to.deep.equal({
      Name: 'Ada',
      'E-mail': '',
      Reference: 'r',
    });
    const said = (more: object) => table(more).error?.issues[0]?.message;
    expect(said({ columns: ['Name', 'name '], by: '' })).to.include('same name');
    expect(said({ by: 'Phone' })).to.include('one of the columns');
    expect(said({ columns: ['reference'], by: '' })).to.include('Leave it out');
  });
});
