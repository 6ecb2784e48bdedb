import { readFileSync } from 'node:fs';
import { expect } from 'chai';
import { apportion } from '../../src/core/results/apportion.ts';
import { bucketOf, bucketsOf, daysIn, periodBefore } from '../../src/core/results/period.ts';
import { neededPerHalf } from '../../src/core/results/trial-size.ts';
import { compareCounts } from '../../src/core/statistics/two-counts.ts';
import { wilson } from '../../src/core/statistics/wilson.ts';

/** Made with SciPy, an independent implementation; how stands in the file. */
const SCIPY = JSON.parse(readFileSync(new URL('./results-scipy.json', import.meta.url), 'utf8')) as {
  wilson: [did: number, of: number, low: number, high: number][];
  counts: [a: number, overA: number, b: number, overB: number, p: number][];
};

describe('the range a share lies in', () => {
  it('is what SciPy gives for Wilson’s interval', () => {
    for (const [did, of, low, high] of SCIPY.wilson) {
      const range = wilson({ did, of })!;
      expect(range.low, `${did} of ${of}`).to.be.closeTo(low, 1e-12);
      expect(range.high, `${did} of ${of}`).to.be.closeTo(high, 1e-12);
    }
  });
  it('is what R. G. Newcombe printed for method 3 (Statistics in Medicine 17 (1998), table I; from memory)', () => {
    const printed = [
      [81, 263, 0.2553, 0.3662],
      [15, 148, 0.0624, 0.1605],
      [0, 20, 0, 0.1611],
      [1, 29, 0.0061, 0.1718],
    ] as const;
    for (const [did, of, low, high] of printed) {
      const range = wilson({ did, of })!;
      expect(range.low).to.be.closeTo(low, 5e-5);
      expect(range.high).to.be.closeTo(high, 5e-5);
    }
  });
  it('is of nobody none at all', () => expect(wilson({ did: 0, of: 0 })).to.equal(null));
});

describe('two counts compared', () => {
  it('is what SciPy’s binomial distribution gives for the exact conditional test', () => {
    for (const [a, overA, b, overB, p] of SCIPY.counts)
      expect(
        compareCounts({ n: a, over: overA }, { n: b, over: overB }).p,
        `${a} in ${overA}, ${b} in ${overB}`,
      ).to.be.closeTo(p, 1e-7);
  });
  it('says nothing of a time that is not on record', () =>
    expect(compareCounts({ n: 90, over: 28 }, { n: 0, over: 0 }).more).to.equal(null));
});

describe('largest remainders', () => {
  it('share 10 seats out among 47000, 16000, 15900, 12000, 6000 and 3100 votes as 5, 2, 1, 1, 1, 0 (the worked example of handbooks; from memory)', () =>
    expect(apportion(10, [47_000, 16_000, 15_900, 12_000, 6_000, 3_100])).to.deep.equal([5, 2, 1, 1, 1, 0]));
  it('show the Alabama paradox in its smallest example: C loses a seat when the house grows from 10 to 11; from memory', () => {
    expect(apportion(10, [6, 6, 2])).to.deep.equal([4, 4, 2]);
    expect(apportion(11, [6, 6, 2])).to.deep.equal([5, 5, 1]);
  });
});

/** Judge: ISO 8601, where weeks begin on Monday and week 1 of 2026 begins on 2025-12-29 (any calendar with week numbers). */
describe('days, weeks and months of results', () => {
  it('begin a week on its Monday, over the end of a year', () => {
    expect(bucketOf('2026-01-01', 'week')).to.equal('2025-12-29');
    expect(bucketOf('2025-12-29', 'week')).to.equal('2025-12-29');
    expect(bucketOf('2025-12-28', 'week')).to.equal('2025-12-22');
  });
  it('have 29 days in the February of a year divisible by 4, not by 100, or by 400 (Gregorian calendar)', () => {
    for (const [year, days] of [
      [2024, 29],
      [2026, 28],
      [2100, 28],
      [2000, 29],
    ])
      expect(daysIn({ from: `${year}-02-01`, to: `${year}-03-01` }) - 1).to.equal(days);
  });
  it('are compared with whole months before where they are whole months, and with as many days where not', () => {
    expect(periodBefore({ from: '2024-03-01', to: '2024-03-31' })).to.deep.equal({
      from: '2024-02-01',
      to: '2024-02-29',
    });
    expect(periodBefore({ from: '2026-01-01', to: '2026-03-31' })).to.deep.equal({
      from: '2025-10-01',
      to: '2025-12-31',
    });
    expect(periodBefore({ from: '2026-03-02', to: '2026-03-31' })).to.deep.equal({
      from: '2026-01-31',
      to: '2026-03-01',
    });
  });
  it('cover a period once each, without a gap', () => {
    expect(bucketsOf({ from: '2024-02-28', to: '2024-03-01' }, 'day')).to.deep.equal([
      '2024-02-28',
      '2024-02-29',
      '2024-03-01',
    ]);
    expect(bucketsOf({ from: '2026-01-31', to: '2026-03-01' }, 'month')).to.deep.equal([
      '2026-01-01',
      '2026-02-01',
      '2026-03-01',
    ]);
  });
});

/** Judge: R's own help of power.prop.test, whose examples give n = 76.7 for 0.50 against 0.75 at power 0.90 and level 0.05 (stats package; from memory). */
describe('how many people a trial needs', () => {
  it('is what R gives', () => {
    expect(neededPerHalf(0.5, 0.75, 0.9)).to.be.closeTo(76.7, 0.05);
    expect(neededPerHalf(0.75, 0.5, 0.9)).to.be.closeTo(76.7, 0.05);
    expect(neededPerHalf(0.2, 0.2)).to.equal(Number.POSITIVE_INFINITY);
  });
});
