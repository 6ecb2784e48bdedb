import { expect } from 'chai';
import fc from 'fast-check';
import { sideBySide } from '../../src/core/appointments/side-by-side.ts';

const places = (...times: [start: number, end: number][]) =>
  sideBySide(
    times.map(([start, end]) => ({ start, end })),
    25,
  ).map(({ column, columns }) => `${column}/${columns}`);

describe('appointments of a day', () => {
  it('have the whole width where they are alone, and share it where they overlap', () => {
    expect(places([0, 60], [60, 120])).to.deep.equal(['0/1', '0/1']);
    expect(places([0, 60], [30, 90], [200, 230])).to.deep.equal(['0/2', '1/2', '0/1']);
    expect(places([30, 90], [0, 60])).to.deep.equal(['1/2', '0/2']);
    // The third goes under the first, beside the second.
    expect(places([0, 30], [0, 90], [40, 80])).to.deep.equal(['0/2', '1/2', '0/2']);
  });
  it('take room enough to be pressed, however short they are', () => {
    expect(places([0, 15], [20, 35])).to.deep.equal(['0/2', '1/2']);
  });
  it('never stand on one another', () => {
    const time = fc.tuple(fc.nat(600), fc.nat(120)).map(([start, long]) => ({ start, end: start + long }));
    fc.assert(
      fc.property(fc.array(time, { maxLength: 30 }), (times) => {
        const found = sideBySide(times, 25);
        const until = (i: number) => Math.max(times[i]!.end, times[i]!.start + 25);
        for (const [i, one] of found.entries()) {
          expect(one.column).to.be.lessThan(one.columns);
          for (let j = 0; j < i; j++)
            if (times[i]!.start < until(j) && times[j]!.start < until(i)) {
              expect(found[j]!.columns).to.equal(one.columns);
              expect(found[j]!.column).not.to.equal(one.column);
            }
        }
      }),
    );
  });
});
