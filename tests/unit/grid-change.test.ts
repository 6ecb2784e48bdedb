import { expect } from 'chai';
import fc from 'fast-check';
import type { GridRow } from '../../src/app/sheets/sheet-rows.ts';
import { changeOfGrid } from '../../src/islands/sheets/grid-change.ts';

const row = (id: string, a: string): GridRow => ({ id, cells: { a } });
const rows = [row('1', 'Ada'), row('2', 'Ben'), row('3', 'Cleo'), row('4', 'Ada')];

describe('a change in the grid of a sheet', () => {
  it('names the one cell that was typed in, so that typing on is one thing to undo', () => {
    const next = rows.map((gridRow) => (gridRow.id === '2' ? row('2', 'Bea') : gridRow));
    const change = changeOfGrid(rows, rows, next, [{ type: 'UPDATE', fromRowIndex: 1, toRowIndex: 2 }]);
    expect(change.deed).to.equal('2:a');
    expect(change.edits).to.deep.equal([{ change: [{ id: '2', cells: { a: 'Bea' } }] }]);
  });

  it('typed in a filtered view goes to its row, and the rows out of sight stay where they are', () => {
    const view = [rows[0]!, rows[3]!];
    const next = [rows[0]!, row('4', 'Adam')];
    const change = changeOfGrid(rows, view, next, [{ type: 'UPDATE', fromRowIndex: 1, toRowIndex: 2 }]);
    expect(change.rows.map(({ id, cells }) => `${id} ${cells.a}`)).to.deep.equal([
      '1 Ada',
      '2 Ben',
      '3 Cleo',
      '4 Adam',
    ]);
  });

  it('a row taken out of a filtered view takes no other with it; a new one comes at the end', () => {
    const view = [rows[0]!, rows[3]!];
    const next = [rows[3]!, row('5', 'Ada')];
    const change = changeOfGrid(rows, view, next, [
      { type: 'DELETE', fromRowIndex: 0, toRowIndex: 1 },
      { type: 'CREATE', fromRowIndex: 1, toRowIndex: 2 },
    ]);
    expect(change.rows.map(({ id }) => id)).to.deep.equal(['2', '3', '4', '5']);
    expect(change.edits).to.deep.equal([
      { change: [], insert: [{ id: '5', after: '4', cells: { a: 'Ada' } }], remove: ['1'] },
    ]);
    expect(change.deed).to.equal('');
  });

  it('whatever is in sight and whatever is done to it, what is out of sight is never changed, moved or lost', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 30 }), { minLength: 1, maxLength: 12 }),
        fc.infiniteStream(fc.boolean()),
        fc.infiniteStream(fc.constantFrom('keep', 'change', 'remove')),
        fc.integer({ min: 0, max: 3 }),
        (ids, inSight, deeds, added) => {
          const all = ids.map((id) => row(String(id), 'was'));
          const seen = new Set(all.filter(() => inSight.next().value).map(({ id }) => id));
          const view = all.filter(({ id }) => seen.has(id));
          const next: GridRow[] = [];
          for (const gridRow of view) {
            const deed = deeds.next().value;
            if (deed !== 'remove') next.push(deed === 'change' ? row(gridRow.id, 'is') : gridRow);
          }
          for (let i = 0; i < added; i++) next.push(row(`new ${i}`, 'is'));
          const change = changeOfGrid(all, view, next, [{ type: 'DELETE', fromRowIndex: 0, toRowIndex: 1 }]);
          const hidden = ({ id }: GridRow) => !seen.has(id) && !id.startsWith('new');
          expect(change.rows.filter(hidden)).to.deep.equal(all.filter(hidden));
          expect(new Set(change.rows.filter((row) => !hidden(row)))).to.deep.equal(new Set(next));
          const removed = change.edits.flatMap(({ remove }) => remove ?? []);
          expect(removed.filter((id) => !seen.has(id))).to.deep.equal([]);
        },
      ),
    );
  });
});
