import { expect } from 'chai';
import { flatten } from '../../src/core/fields/flatten.ts';
import { readNumber } from '../../src/core/fields/read-number.ts';
import { FormPage, newFormPage, settleWordings } from '../../src/core/form/form-page.ts';
import { fitsShade, shadeOf } from '../../src/core/sheets/column.ts';
import { columnLetter, columnNames, findHeaderRow } from '../../src/core/sheets/header-row.ts';
import { fitsFilter } from '../../src/core/sheets/row-filter.ts';
import { compareShares } from '../../src/core/statistics/two-shares.ts';
import { cleanAddress } from '../../src/core/tidying/clean-address.ts';

describe('any JSON value as fields', () => {
  const LIMITS = { depth: 3, count: 6, length: 10 };
  const of = (value: unknown, limits = LIMITS) => {
    const read = flatten(value, limits);
    return read.ok ? Object.fromEntries(read.fields.map((field) => [field.key, field.value])) : read.problem;
  };
  it('nested names are joined, lists of plain values too, and nothing is “value”', () => {
    expect(of({ a: { b: 1, c: null }, d: [1, null, 'x'], e: true })).to.deep.equal({
      'a.b': '1',
      'a.c': '',
      d: '1, , x',
      e: 'true',
    });
    expect(of('x')).to.deep.equal({ value: 'x' });
    expect(of([1, 2])).to.deep.equal({ value: '1, 2' });
    expect(of({})).to.deep.equal({});
    expect(of({ long: 'x'.repeat(11) })).to.deep.equal({ long: 'x'.repeat(10) });
  });
  it('a list of objects is numbered, and is rows besides where they are plain', () => {
    const read = flatten({ lines: [{ name: 'Strings', n: 2 }, { name: '' }] });
    expect(read.ok && read.fields.map(({ key, value, rows }) => [key, value, rows])).to.deep.equal([
      ['lines', 'Strings, 2; ', [{ name: 'Strings', n: '2' }, { name: '' }]],
      ['lines.1.name', 'Strings', undefined],
      ['lines.1.n', '2', undefined],
      ['lines.2.name', '', undefined],
    ]);
    const keys = (value: unknown) => {
      const flat = flatten(value);
      return flat.ok && flat.fields.map((field) => field.key);
    };
    expect(keys({ a: [{ b: { c: 1 } }] }), 'not plain').to.deep.equal(['a.1.b.c']);
    expect(keys({ a: [{ b: 1 }, null] }), 'not all objects').to.deep.equal(['a.1.b', 'a.2']);
    expect(keys({ a: [{ b: [1, [2]] }] }), 'lists of plain values are plain').to.deep.equal([
      'a',
      'a.1.b.1',
      'a.1.b.2',
    ]);
    expect(keys([{ b: 1 }]), 'no name, no rows').to.deep.equal(['1.b']);
  });
  it('too deep and too many are said, at the very next one', () => {
    expect(of({ a: { b: { c: 1 } } })).to.deep.equal({ 'a.b.c': '1' });
    expect(of({ a: { b: { c: { d: 1 } } } })).to.equal('too-deep');
    const wide = (n: number) => Object.fromEntries(Array.from({ length: n }, (_, i) => [`f${i}`, 1]));
    expect(Object.keys(of(wide(6)) as object)).to.have.length(6);
    expect(of(wide(7))).to.equal('too-many');
    expect(of(wide(25))).to.equal('too-many');
    expect(of({ a: [{}, {}, {}, {}, {}, {}], b: [{ c: 1 }] }), 'rows count as well').to.deep.equal({
      a: '; ; ; ; ; ',
      b: '1',
      'b.1.c': '1',
    });
  });
  it('names of properties every object has are ordinary keys', () => {
    const read = flatten(JSON.parse('{"__proto__": {"x": 1}, "constructor": 2, "l": [{"__proto__": 3}]}'));
    expect(read.ok && read.fields.map((field) => `${field.key}=${field.value}`)).to.deep.equal([
      '__proto__.x=1',
      'constructor=2',
      'l=3',
      'l.1.__proto__=3',
    ]);
  });
});

describe('the rows of a file', () => {
  it('the header is the row that reads like names, none twice, and not a row of values', () => {
    expect(
      findHeaderRow([
        ['Name', 'Email'],
        ['Ada', 'ada@example.org'],
      ]),
    ).to.equal(0);
    expect(findHeaderRow([['Enquiries 2026'], [], ['Name', 'Email', 'Phone'], ['Ada', 'a@b.example', '1']])).to.equal(
      2,
    );
    expect(
      findHeaderRow([
        ['a@b.example', '07700 900123'],
        ['1', '2'],
      ]),
    ).to.equal(null);
    expect(
      findHeaderRow([
        ['Yes', 'yes', 'YES'],
        ['Name', 'Email', 'Phone'],
      ]),
    ).to.equal(1);
    expect(findHeaderRow([])).to.equal(null);
    expect(findHeaderRow([['', ' ']])).to.equal(null);
    expect(
      findHeaderRow([...Array.from({ length: 15 }, () => ['1', '2']), ['Name', 'Email']]),
      'it is among the first',
    ).to.equal(null);
    expect(findHeaderRow([...Array.from({ length: 14 }, () => ['1', '2']), ['Name', 'Email']])).to.equal(14);
    expect(findHeaderRow([['x'.repeat(81), 'Email']]), 'nobody calls a column that').to.equal(null);
    expect(
      findHeaderRow([
        ['Name', 'Email', '', '', ''],
        ['a', 'b', 'c', 'd', 'e'],
      ]),
      'too few of so many',
    ).to.equal(1);
  });
  it('columns without a name have their letter, repeated ones a number', () => {
    expect([0, 25, 26, 51, 52, 701, 702].map(columnLetter)).to.deep.equal(['A', 'Z', 'AA', 'AZ', 'BA', 'ZZ', 'AAA']);
    expect(columnNames([' Name ', 'name', '', 'NAME'], 5)).to.deep.equal([
      'Name',
      'name 2',
      'Column C',
      'NAME 3',
      'Column E',
    ]);
    expect(columnNames(null, 2)).to.deep.equal(['Column A', 'Column B']);
    expect(columnNames(['x'.repeat(300)], 1)[0]).to.have.length(200);
  });
  it('rows that count, and shades: the first rule that fits the cell or its row, else that of the column', () => {
    const fits = (test: Parameters<typeof fitsFilter>[1]['test'], cell: string, value = '') =>
      fitsFilter(cell, { test, value });
    expect([fits('is', ' Yes ', 'yes'), fits('is', 'Yes!', 'yes')]).to.deep.equal([true, false]);
    expect([fits('is_not', 'Yes', 'yes'), fits('is_not', 'No', 'yes')]).to.deep.equal([false, true]);
    expect([fits('contains', 'A YES b', ' yes '), fits('contains', 'no', 'yes')]).to.deep.equal([true, false]);
    expect([fits('is_filled', 'x'), fits('is_filled', ' ')]).to.deep.equal([true, false]);
    expect([fits('is_empty', 'x'), fits('is_empty', ' ')]).to.deep.equal([false, true]);
    expect([
      fitsShade('5', { test: 'greater', value: '5' }),
      fitsShade('6', { test: 'greater', value: '5' }),
    ]).to.deep.equal([false, true]);
    expect([fitsShade('5', { test: 'less', value: '5' }), fitsShade('4', { test: 'less', value: '5' })]).to.deep.equal([
      false,
      true,
    ]);
    expect([fitsShade('', { test: 'less', value: '5' }), fitsShade('4', { test: 'less', value: '' })]).to.deep.equal([
      false,
      false,
    ]);
    const rule = (column: string, row: boolean, shade: 'pine' | 'bad') => ({
      column,
      row,
      shade,
      test: 'is_filled' as const,
      value: '',
    });
    const shade = (id: string, ...rules: ReturnType<typeof rule>[]) =>
      shadeOf({ id, shade: 'slate' }, { a: 'x' }, rules);
    expect([
      shade('b', rule('a', true, 'pine')),
      shade('b', rule('a', false, 'pine')),
      shade('a', rule('a', false, 'bad'), rule('a', true, 'pine')),
    ]).to.deep.equal(['pine', 'slate', 'bad']);
    expect(shadeOf({ id: 'b' }, {}, [rule('a', true, 'pine')])).to.equal(null);
  });
});

describe('values as people write them', () => {
  const numbers: [string, number | null][] = [
    ['1,250.00', 1250],
    ['1.250,00 €', 1250],
    ['1 250', 1250],
    ["1'250", 1250],
    ['1_250', 1250],
    ['1,250', 1250],
    ['1.250', 1.25],
    ['1.250.000', 1_250_000],
    ['1,2', 1.2],
    ['12,50', 12.5],
    ['-£5', -5],
    ['£-5', -5],
    ['5$', 5],
    ['GBP 5', 5],
    ['5EUR', 5],
    ['EUR-5', -5],
    ['15 %', 15],
    ['−3', -3],
    ['+3', 3],
    ['.5', 0.5],
    ['１２', 12],
    ['1,2,3', null],
    ['1.2.3', null],
    ['1-2', null],
    ['five', null],
    ['', null],
    ['.', null],
    ['5 apples', null],
    ['1e5', null],
  ];
  for (const [typed, value] of numbers)
    it(`“${typed}” is ${value ?? 'no number'}`, () => expect(readNumber(typed)).to.equal(value));

  const addresses: [string, string | null][] = [
    ['wrenfield.example', 'https://wrenfield.example'],
    [' HTTP://Wrenfield.Example/ ', 'http://wrenfield.example'],
    ['https://a.example/?page=2&utm_source=x&UTM_Campaign=y&gclid=z', 'https://a.example/?page=2'],
    ['https://a.example/x/?utm_source=x', 'https://a.example/x/'],
    ['https://a.example/#top', 'https://a.example/#top'],
    ['https://a.example/?my_utm_source=1', 'https://a.example/?my_utm_source=1'],
    ['ftp://a.example', null],
    ['localhost', null],
    ['a.example b', null],
    ['', null],
    ['https://', null],
  ];
  for (const [typed, is] of addresses)
    it(`“${typed}” is ${is ?? 'no address'}`, () => expect(cleanAddress(typed)).to.equal(is));

  it('a difference of shares is real where chance alone would seldom make it, and never of too few', () => {
    expect(compareShares({ did: 30, of: 100 }, { did: 50, of: 100 }).larger).to.equal('b');
    expect(compareShares({ did: 50, of: 100 }, { did: 30, of: 100 }).larger).to.equal('a');
    expect(compareShares({ did: 40, of: 100 }, { did: 45, of: 100 }).larger).to.equal(null);
    expect(compareShares({ did: 4, of: 100 }, { did: 40, of: 100 }).larger, 'four are too few').to.equal(null);
    expect(compareShares({ did: 5, of: 100 }, { did: 40, of: 100 }).larger).to.equal('b');
    expect(compareShares({ did: 96, of: 100 }, { did: 60, of: 100 }).larger, 'four that did not, too').to.equal(null);
    for (const none of [
      { did: 0, of: 0 },
      { did: 100, of: 100 },
    ])
      expect(compareShares(none, { did: 100, of: 100 })).to.deep.equal({ p: 1, larger: null });
    expect(compareShares({ did: 1, of: 2 }, { did: 0, of: 0 })).to.deep.equal({ p: 1, larger: null });
  });
});

describe('a form page', () => {
  const page = newFormPage('Trial lesson', 'Wrenfield');
  const told = (more: object) =>
    FormPage.safeParse({ ...page, ...more }).error?.issues.map((issue) => issue.message) ?? [];
  const field = (key: string, more: object = {}) => ({ key, label: 'L', kind: 'short', required: false, ...more });
  const screens = (...fields: object[]) => [{ title: '', fields }];
  it('begins as one that can be put live', () => {
    expect(told({})).to.deep.equal([]);
    expect(page.screens[0]!.fields.map(({ key, required }) => [key, required])).to.deep.equal([
      ['first_name', true],
      ['last_name', false],
      ['email', true],
      ['phone', false],
    ]);
    expect(page.consent).to.deep.include({
      asked: true,
      required: false,
      text: 'Wrenfield may text and email me. I can stop this at any time.',
    });
  });
  it('says what is missing', () => {
    expect(told({ title: ' ' })).to.deep.equal(['The page needs a title']);
    expect(told({ button: '' })).to.deep.equal(['The button needs words']);
    expect(told({ screens: [] })).to.include('The page needs at least one screen');
    expect(told({ screens: screens() })).to.deep.equal(['The page needs at least one field']);
    expect(told({ screens: screens(field('a', { label: '' })) })).to.deep.equal(['Every field needs a label']);
    expect(told({ screens: [...screens(field('a')), ...screens(field('a'))] })).to.deep.equal([
      'Two fields have the same key',
    ]);
    expect(told({ screens: screens(field('a', { kind: 'choice' })) })).to.deep.equal([
      '"L" needs something to choose from',
    ]);
    expect(told({ screens: screens(field('a', { kind: 'choice', choices: ['Piano'] })) })).to.deep.equal([]);
    expect(told({ screens: screens(field('A')) })).to.have.length(1);
    expect(told({ consent: { asked: true, text: ' ' } })).to.deep.equal(['Write what people agree to']);
    expect(told({ consent: { asked: false, text: '' } })).to.deep.equal([]);
  });
  it('a changed wording is another version, for ever; the same one, or none asked, is not', () => {
    const first = settleWordings(null, page, '2026-01-01');
    expect(first.consent.wordings).to.deep.equal([{ version: 1, text: page.consent.text, since: '2026-01-01' }]);
    expect(settleWordings(first, page, '2026-02-01').consent.wordings).to.deep.equal(first.consent.wordings);
    const other = { ...page, consent: { ...page.consent, text: 'Other' } };
    const second = settleWordings(first, other, '2026-03-01');
    expect(second.consent.wordings.map(({ version, since }) => [version, since])).to.deep.equal([
      [1, '2026-01-01'],
      [2, '2026-03-01'],
    ]);
    expect(
      settleWordings(second, { ...page, consent: { ...page.consent, asked: false } }, '2026-04-01').consent.wordings,
    ).to.have.length(2);
  });
});
