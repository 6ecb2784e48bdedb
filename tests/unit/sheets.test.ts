import { expect } from 'chai';
import fc from 'fast-check';
import { layoutLinks } from '../../src/core/email/layout-links.ts';
import { subjectProblems } from '../../src/core/email/subject-problems.ts';
import { readNumber } from '../../src/core/fields/read-number.ts';
import { choiceOfQuery, queryOfChoice } from '../../src/core/people/choice-query.ts';
import { EVERYBODY, LeadChoice } from '../../src/core/people/lead-choice.ts';
import { type ShadeRule, shadeOf } from '../../src/core/sheets/column.ts';
import { fitsColumn } from '../../src/core/sheets/fits-column.ts';
import { orderOf } from '../../src/core/sheets/row-order.ts';
import { editsBetween, editsOfRange } from '../../src/islands/sheets/row-edits.ts';

const GB = { country: 'GB', timeZone: 'Europe/London' };
const sorted = (cells: string[], type: Parameters<typeof orderOf>[1], down = false) =>
  Array.from(orderOf(cells, type, down, GB), (at) => cells[at]);

describe('columns of a sheet', () => {
  it('marks what does not fit its column, and never an empty cell', () => {
    for (const [type, good, bad] of [
      ['number', '£1,250.00', 'twelve'],
      ['date', '3 March 2026', 'soon'],
      ['tick', 'Yes', 'no'],
      ['email', 'ada@example.org', 'ada@'],
      ['phone', '07700 900142', '12'],
    ] as const) {
      expect(fitsColumn(good, { type }, GB), good).to.equal(true);
      expect(fitsColumn(bad, { type }, GB), bad).to.equal(false);
      expect(fitsColumn('  ', { type }, GB)).to.equal(true);
    }
    const choice = { type: 'choice' as const, choices: ['Piano', 'Violin'] };
    expect(fitsColumn('piano', choice, GB)).to.equal(true);
    expect(fitsColumn('Oboe', choice, GB)).to.equal(false);
  });

  it('shades by the first rule that fits, then by the column', () => {
    const rule = (more: Partial<ShadeRule>): ShadeRule => ({
      ...{ column: 'a', test: 'is_empty', value: '', shade: 'warn', row: true },
      ...more,
    });
    const rules = [rule({}), rule({ column: 'b', test: 'greater', value: '100', shade: 'pine', row: false })];
    expect(shadeOf({ id: 'c' }, { b: '500' }, rules)).to.equal('warn');
    expect(shadeOf({ id: 'b' }, { a: 'x', b: '£500' }, rules)).to.equal('pine');
    expect(shadeOf({ id: 'c', shade: 'slate' }, { a: 'x', b: '500' }, rules)).to.equal('slate');
    expect(shadeOf({ id: 'c' }, { a: 'x', b: '5' }, rules)).to.equal(null);
  });

  it('sorts numbers and dates by what they mean, text by the alphabet; what does not fit behind, empty cells last', () => {
    expect(sorted(['10', '9', '', '£1,000', 'n/a', '-2'], 'number')).to.deep.equal([
      '-2',
      '9',
      '10',
      '£1,000',
      'n/a',
      '',
    ]);
    expect(sorted(['10', '9', '', '£1,000', 'n/a'], 'number', true)).to.deep.equal(['£1,000', '10', '9', 'n/a', '']);
    expect(sorted(['3 Mar 2026', '2025-12-31', 'soon', '01/02/2026'], 'date')).to.deep.equal([
      ...['2025-12-31', '01/02/2026', '3 Mar 2026', 'soon'],
    ]);
    expect(sorted(['éclair', 'Zoo', 'apple', 'Row 10', 'Row 9'], 'text')).to.deep.equal([
      ...['apple', 'éclair', 'Row 9', 'Row 10', 'Zoo'],
    ]);
  });

  it('an order has every row once, and rows that are alike stay in theirs', () => {
    const cell = fc.oneof(fc.constantFrom('', ' ', '1', '2', '10', 'a', 'B'), fc.string({ maxLength: 3 }));
    fc.assert(
      fc.property(fc.array(cell, { maxLength: 40 }), fc.boolean(), (cells, down) => {
        const order = [...orderOf(cells, 'number', down, GB)];
        expect(order.toSorted((a, b) => a - b)).to.deep.equal([...cells.keys()]);
        const numbers = order.map((at) => readNumber(cells[at]!)).filter((one) => one !== null);
        for (const [i, one] of numbers.entries())
          if (i > 0) expect(down ? numbers[i - 1]! >= one : numbers[i - 1]! <= one).to.equal(true);
        for (const [i, at] of order.entries())
          if (i > 0 && cells[order[i - 1]!] === cells[at]) expect(order[i - 1]).to.be.lessThan(at);
      }),
    );
  });

  it('what was typed over rows that are there is found as the slow way finds it', () => {
    const row = fc.record({ a: fc.constantFrom('', 'x', 'y'), b: fc.constantFrom('', 'x') });
    fc.assert(
      fc.property(fc.array(fc.tuple(row, row), { minLength: 1, maxLength: 12 }), (pairs) => {
        const at = (which: 0 | 1) => pairs.map((pair, i) => ({ id: `${i}`, cells: { ...pair[which] } }));
        const [before, after] = [at(0), at(1)];
        const quick = editsOfRange(before, after, [{ fromRowIndex: 0, toRowIndex: pairs.length }]);
        const slow = editsBetween(before, after).filter((edits) => (edits.change ?? []).length > 0);
        expect(quick.flatMap((edits) => edits.change)).to.deep.equal(slow.flatMap((edits) => edits.change));
      }),
    );
  });
});

describe('emails, looked over before they go', () => {
  it('a subject in capitals or with a row of marks is told; initials and fields are not', () => {
    expect(subjectProblems('HALF PRICE TODAY')).to.have.length(1);
    expect(subjectProblems('Half price!!!')).to.have.length(1);
    expect(subjectProblems('RSVP: {{ lead.first_name }}, your BBC concert')).to.deep.equal([]);
    expect(subjectProblems('x'.repeat(121))).to.have.length(1);
  });

  it('finds every web address a reader can follow, once, and leaves those with fields out', () => {
    const blocks = [
      {
        id: 't',
        kind: 'text' as const,
        text: 'See https://example.org/a. Or https://example.org/a',
        align: 'left' as const,
      },
      {
        id: 'b',
        kind: 'button' as const,
        label: 'Go',
        link: 'https://example.org/{{ answers.x }}',
        align: 'left' as const,
      },
      { id: 'p', kind: 'picture' as const, file: null, address: '', alt: 'x', link: 'https://example.org/b' },
    ];
    const layout = { as: 'blocks' as const, accent: '#000000', background: '#ffffff' };
    expect(layoutLinks({ ...layout, blocks })).to.deep.equal([
      { blockId: 't', address: 'https://example.org/a' },
      { blockId: 'p', address: 'https://example.org/b' },
    ]);
    const html = `<a href="https://example.org/1">x</a><A HREF='https://example.org/2'>y</A><a href="mailto:a@example.org">z</a>`;
    expect(layoutLinks({ as: 'html', html }).map((one) => one.address)).to.deep.equal([
      ...['https://example.org/1', 'https://example.org/2'],
    ]);
  });
});

describe('a choice of leads in the address bar', () => {
  const uuid = fc.uuid({ version: 7 });
  const choice = fc
    .record({
      ids: fc.option(fc.array(uuid, { minLength: 1, maxLength: 3 })),
      search: fc.string({ maxLength: 10 }).map((text) => text.trim()),
      segment: fc.option(uuid),
      condition: fc.option(
        fc.constant({ all: [{ field: 'lead.email', test: 'is' as const, value: 'x', to: '', exact: false }] }),
      ),
      list: fc.option(
        fc.record({ id: uuid, state: fc.option(fc.constantFrom('active' as const, 'waiting' as const)) }),
      ),
      tag: fc.option(uuid),
      source: fc.option(uuid),
    })
    .map((made) => LeadChoice.parse(made));
  it('comes back as it was', () => {
    fc.assert(
      fc.property(choice, (one) => {
        expect(choiceOfQuery(new URLSearchParams(queryOfChoice(one).toString()))).to.deep.equal(one);
      }),
    );
  });
  it('whatever stands there, nothing breaks', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (query, junk) => {
        const asked = new URLSearchParams(query);
        asked.set('if', junk);
        asked.set('list', junk);
        expect(choiceOfQuery(asked)).to.include({ list: null });
      }),
    );
    expect(choiceOfQuery(new URLSearchParams())).to.deep.equal(EVERYBODY);
  });
});
