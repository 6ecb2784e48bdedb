import { expect } from 'chai';
import fc from 'fast-check';
import { compareShares } from '../../src/core/statistics/two-shares.ts';

/** Fisher's exact test by the hypergeometric distribution, two-sided: every table as unlikely as ours or more so. */
function fisher(a: { did: number; of: number }, b: { did: number; of: number }): number {
  const logs = [0];
  for (let n = 1; n <= a.of + b.of; n++) logs.push(logs[n - 1]! + Math.log(n));
  const choose = (n: number, k: number) => logs[n]! - logs[k]! - logs[n - k]!;
  const did = a.did + b.did;
  const chance = (x: number) => Math.exp(choose(a.of, x) + choose(b.of, did - x) - choose(a.of + b.of, did));
  const ours = chance(a.did);
  let p = 0;
  for (let x = Math.max(0, did - b.of); x <= Math.min(a.of, did); x++) {
    const each = chance(x);
    if (each <= ours * (1 + 1e-9)) p += each;
  }
  return p;
}

/**
 * Judges: the 5 % point of the standard normal distribution, 1.959964 (any table, e.g. NIST/SEMATECH e-Handbook §1.3.6.7.1), and
 * Fisher's exact test, worked out here from the hypergeometric distribution.
 */
describe('two shares compared', () => {
  it('is at 5 % where z is 1.959964', () => {
    // Equal groups of n with p = 0.5 + d and 0.5 - d: z = 2d / sqrt(0.25 · 2 / n).
    const n = 1_000_000;
    const d = (1.959964 * Math.sqrt(0.5 / n)) / 2;
    const { p } = compareShares({ did: n * (0.5 + d), of: n }, { did: n * (0.5 - d), of: n });
    expect(p).to.be.closeTo(0.05, 1e-5);
  });
  it('the lady tasting tea, 3 of 4 against 1 of 4 (Fisher 1935, p = 0.486), is chance', () => {
    const tea = [
      { did: 3, of: 4 },
      { did: 1, of: 4 },
    ] as const;
    expect(fisher(...tea)).to.be.closeTo(0.4857, 1e-4);
    expect(compareShares(...tea).larger).to.equal(null);
  });
  it('agrees with the exact test on large groups, and never calls a winner the exact test would not at 10 %', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 200, max: 500 }),
        fc.integer({ min: 200, max: 500 }),
        fc.double({ min: 0.05, max: 0.6, noNaN: true }),
        fc.double({ min: 0.05, max: 0.6, noNaN: true }),
        (na, nb, pa, pb) => {
          const [a, b] = [
            { did: Math.round(na * pa), of: na },
            { did: Math.round(nb * pb), of: nb },
          ];
          const { p, larger } = compareShares(a, b);
          const exact = fisher(a, b);
          // Far from a decision the exact test counts whole lumps of equal tables (0.58 where we say 0.65): only near one must they agree.
          if (exact < 0.2) expect(p).to.be.at.most(exact + 0.01);
          if (larger) expect(exact).to.be.lessThan(0.1);
          if (exact < 0.04) expect(larger).to.equal(a.did / a.of > b.did / b.of ? 'a' : 'b');
        },
      ),
    );
  });
  it('says nothing of nothing', () => {
    for (const [a, b] of [
      [
        { did: 0, of: 0 },
        { did: 1, of: 2 },
      ],
      [
        { did: 0, of: 50 },
        { did: 0, of: 50 },
      ],
      [
        { did: 4, of: 50 },
        { did: 30, of: 50 },
      ],
    ] as const)
      expect(compareShares(a, b).larger).to.equal(null);
  });
});
