import { expect } from 'chai';
import fc from 'fast-check';
import { alikeNames } from '../../src/core/results/alike.ts';
import { costKey, guessCostColumns, readCosts } from '../../src/core/results/costs.ts';
import { markedLink } from '../../src/core/results/marked-link.ts';
import {
  daysOfMonth,
  type MonthFigures,
  monthBefore,
  monthSentences,
  nextMonthPage,
} from '../../src/core/results/month.ts';
import { readRates } from '../../src/core/results/rates.ts';
import { doesFastPay, shownBands } from '../../src/core/results/reply-times.ts';
import { verdictOf, verdictWords } from '../../src/core/results/trial.ts';
import { noCounts, stopsMost, wayOf } from '../../src/core/results/way.ts';
import { deviceOf } from '../../src/core/source/device.ts';
import { inVersion, stepFor, versionFor } from '../../src/core/workflow/trial.ts';

describe('costs of a file', () => {
  const read = (names: string[], ...rows: string[][]) =>
    readCosts(rows, guessCostColumns(names), { country: 'GB', currency: 'GBP', names, firstRow: 2 });
  it('are told by whatever their columns are called', () => {
    expect(
      guessCostColumns([
        'Campaign name',
        'Ad Set Name',
        'Ad name',
        'Day',
        'Amount spent (EUR)',
        'Link clicks',
        'Impressions',
      ]),
    ).to.deep.equal({
      ...{ day: 3, campaign: 0, adSet: 1, ad: 2, cost: 4, currency: -1, site: -1, impressions: 6, clicks: 5 },
    });
    // One column is never two.
    expect(guessCostColumns(['Date', 'Campaign', 'Cost', 'Source']).site).to.equal(3);
  });
  it('are added up where a file parts them further, and keep their currency', () => {
    const { lines } = read(
      ['Day', 'Campaign', 'Cost (USD)', 'Clicks'],
      ['2026-03-01', 'a', '1.10', '3'],
      ['2026-03-01', ' a ', '2.2', ''],
      ['1 Mar 2026', 'b', '$1,000', '1'],
    );
    expect(lines.map(({ campaign, cost, currency, clicks }) => [campaign, cost, currency, clicks])).to.deep.equal([
      ['a', 330, 'USD', 3],
      ['b', 100_000, 'USD', 1],
    ]);
  });
  it('say of each row that is left out where it stands and why', () => {
    const { lines, left } = read(
      ['Date', 'Campaign', 'Spend'],
      ['', 'Total', '99'],
      ['31/02/2026', 'a', '1'],
      ['2026-03-01', 'a', 'free'],
      ['2026-03-01', 'a', '-1'],
      ['2026-03-01', 'a', '99999999999'],
      ['2026-03-01', 'a', ''],
    );
    expect(left.map(({ row }) => row)).to.deep.equal([3, 4, 5, 6]);
    expect(left[0]!.why).to.equal('“31/02/2026” is no date');
    expect(lines).to.have.length(1);
  });
  it('never come in with anything but whole hundredths, one line for each name and day', () =>
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.oneof(fc.string(), fc.constantFrom('2026-01-01', 'a', '3.335', '£2')), { maxLength: 4 })),
        (rows) => {
          const { lines } = read(['day', 'campaign', 'cost', 'ad'], ...rows);
          expect(lines.every(({ cost }) => Number.isInteger(cost) && cost >= 0)).to.equal(true);
          expect(new Set(lines.map(costKey)).size).to.equal(lines.length);
        },
      ),
    ));
});

describe('rates of a file', () => {
  it('are read however they are parted, and in whatever order', () => {
    const one = { day: '2026-11-01', currency: 'EUR', rate: 0.86 };
    for (const text of [
      '2026-11-01;EUR;0,86',
      'EUR\t2026-11-01\t0.86',
      '2026-11-01, EUR, 0.86',
      '"2026-11-01","eur","0.86"',
      '2026-11-01 EUR 0.86',
      'day,currency,rate\n2026-11-01,EUR,0.86\n',
    ])
      expect(readRates(text), text).to.deep.equal({ rates: [one], problem: null });
  });
  it('say which line is wrong, and keep none of them then', () => {
    for (const [text, problem] of [
      ['2026-11-01,EUR,0.86\n2026-11-02,EUR', 'Line 2: there is no rate in it: a number above 0, as in 0.86.'],
      ['EUR 0.86', 'Line 1: there is no day in it. Write it as 2026-11-01.'],
      ['2026-11-01 0.86', 'Line 1: there is no currency in it: three letters, as in EUR.'],
      ['2026-13-01;EUR;1', 'Line 1: there is no day in it. Write it as 2026-11-01.'],
      ['', 'There is no rate in it.'],
    ] as const)
      expect(readRates(text), text).to.deep.equal({ rates: [], problem });
  });
});

describe('names that are probably one', () => {
  const pairs = (...names: string[]) =>
    alikeNames(names.map((name, i) => ({ name, n: 100 - i }))).map(({ name, likely, why }) => [name, likely, why]);
  it('are those that differ by case and signs, or by a slip', () => {
    expect(pairs('autumn-trial', 'Autumn Trial', 'autum-trial', 'spring')).to.deep.equal([
      ['Autumn Trial', 'autumn-trial', 'spelling'],
      ['autum-trial', 'autumn-trial', 'typo'],
    ]);
    expect(pairs('piano-evenings', 'piano-evneings')).to.have.length(1);
  });
  it('are not those that count something, or are short', () => {
    expect(pairs('week-1', 'week-2', 'week1')).to.deep.equal([['week1', 'week-1', 'spelling']]);
    expect(pairs('flute', 'flutes', 'lute', 'email', 'e-mail')).to.deep.equal([['e-mail', 'email', 'spelling']]);
  });
});

describe('a link with marks', () => {
  it('has them in place of those it had, and all else as it was', () =>
    expect(
      markedLink('www.wrenfield.example/trial?utm_source=old&room=5#top', { site: 'Town Hall', campaign: 'open_day' }),
    ).to.deep.equal({
      ...{
        ok: true,
        link: 'https://www.wrenfield.example/trial?room=5&utm_source=town-hall&utm_campaign=open-day#top',
      },
    }));
  it('keeps a word that is used already as it is written', () =>
    expect(markedLink('https://a.example', { site: 'Town Hall' }, { site: ['Town Hall'] })).to.deep.include({
      link: 'https://a.example/?utm_source=Town+Hall',
    }));
  it('is none of what is no page', () => {
    for (const address of ['', 'mailto:a@b.example', 'javascript:alert(1)', 'https://', 'a b'])
      expect(markedLink(address, {}).ok, address).to.equal(false);
  });
});

describe('what somebody held in their hands', () => {
  it('is told by what their browser says of itself', () => {
    for (const [device, agent] of [
      [
        'phone',
        'Mozilla/5.0 (iPhone; CPU iPhone OS 18_1 like Mac OS X) AppleWebKit/605.1.15 Mobile/15E148 Safari/604.1',
      ],
      ['phone', 'Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 Chrome/130.0.0.0 Mobile Safari/537.36'],
      ['tablet', 'Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 Chrome/130.0.0.0 Safari/537.36'],
      ['tablet', 'Mozilla/5.0 (iPad; CPU OS 12_5 like Mac OS X) AppleWebKit/605.1.15 Mobile/15E148'],
      ['computer', 'Mozilla/5.0 (X11; Linux x86_64; rv:132.0) Gecko/20100101 Firefox/132.0'],
      ['computer', ''],
    ] as const)
      expect(deviceOf(agent), agent).to.equal(device);
  });
});

describe('a trial of two versions', () => {
  const trial = {
    id: '01999999-0000-7000-8000-000000000001',
    settings: { message: 'B' },
    goal: 'replied',
    days: 7,
    perHalf: 100,
  } as const;
  const step = { kind: 'text', settings: { message: 'A', sender: 'x' }, trial };
  it('gives each lead one version for ever, and about half of them each', () => {
    const versions = Array.from({ length: 10_000 }, (_, n) =>
      versionFor(trial.id, `01999999-0000-7000-8000-${String(n).padStart(12, '0')}`),
    );
    const b = versions.filter((version) => version === 'b').length;
    // Four standard deviations of a fair coin.
    expect(b).to.be.within(4800, 5200);
    expect(versionFor(trial.id, 'one')).to.equal(versionFor(trial.id, 'one'));
    // Another trial parts them otherwise.
    const other = versions.filter(
      (version, n) => version === versionFor('another', `01999999-0000-7000-8000-${String(n).padStart(12, '0')}`),
    ).length;
    expect(other).to.be.within(4800, 5200);
  });
  it('changes what B says and nothing else', () => {
    expect(inVersion(step, 'b').settings).to.deep.equal({ message: 'B', sender: 'x' });
    expect(inVersion(step, 'a')).to.equal(step);
    expect(stepFor({ ...step, kind: 'note' }, 'one').settings.message).to.equal('A');
  });
  it('is decided once, when both have their people; not before, however it looks', () => {
    expect(verdictOf({ did: 60, of: 99 }, { did: 1, of: 100 }, 100)).to.deep.equal({ is: 'under_way', left: 1 });
    expect(verdictOf({ did: 60, of: 100 }, { did: 20, of: 100 }, 100)).to.include({ is: 'decided', better: 'a' });
    const even = verdictOf({ did: 22, of: 100 }, { did: 20, of: 100 }, 100);
    expect(even).to.include({ better: null });
    expect(verdictWords(even, { did: 22, of: 100 }, { did: 20, of: 100 }, 'they write back')).to.equal(
      'Decided: no difference beyond chance. Of A 22.0 %, of B 20.0 %: they write back.',
    );
  });
  it('finds a difference where there is none in no more than one of twenty', () => {
    // The same share of both, two thousand times over: at the level of 5 % about a hundred.
    let seed = 11;
    const random = () => {
      seed = (seed * 48_271) % 2_147_483_647;
      return seed / 2_147_483_647;
    };
    let wrong = 0;
    for (let n = 0; n < 2000; n++) {
      const half = () => Array.from({ length: 200 }, random).filter((x) => x < 0.15).length;
      const verdict = verdictOf({ did: half(), of: 200 }, { did: half(), of: 200 }, 200);
      if (verdict.is === 'decided' && verdict.better) wrong++;
    }
    expect(wrong).to.be.within(60, 145);
  });
});

describe('the way through', () => {
  const counts = {
    ...noCounts(),
    came: { reached: 100, furthest: 10, median: 0, ninety: 0 },
    answered: { reached: 90, furthest: 60, median: 1, ninety: 2 },
  };
  it('has shares of all who came, with their ranges, and names where most stop', () => {
    const way = wayOf(counts);
    expect(way[1]).to.include({ stage: 'answered', share: 0.9 });
    expect(way[1]!.low).to.be.below(0.9);
    expect(stopsMost(way)!.stage).to.equal('answered');
    expect(wayOf(noCounts())).to.deep.equal([]);
  });
});

describe('whether answering fast pays', () => {
  const bands = (fast: [number, number], slow: [number, number]) =>
    doesFastPay(
      shownBands(
        [
          { key: 'seconds', did: fast[0], of: fast[1] },
          { key: 'day', did: slow[0], of: slow[1] },
        ],
        { did: 0, of: 5 },
      ),
    );
  it('is not said to be proven, whichever way it turns out', () => {
    expect(bands([30, 300], [28, 300])).to.include({ proves: false });
    expect(bands([30, 300], [28, 300]).says).to.match(/does not prove/);
    expect(bands([90, 300], [28, 300]).says).to.match(/more than chance.*does not prove/);
    expect(bands([28, 300], [90, 300]).says).to.match(/other way round/);
    expect(bands([3, 300], [1, 4]).says).to.match(/too few to say anything/);
    expect(bands([3, 300], [0, 0]).says).to.match(/nothing to compare/);
  });
});

describe('the page of a month', () => {
  const words = { locale: 'en-GB', currency: 'GBP', before: 'in October' };
  const campaign = (name: string, more: object) => ({
    name,
    leads: 0,
    booked: 0,
    sales: 0,
    money: {},
    cost: {},
    rate: { did: 0, of: 0 },
    ...more,
  });
  const figures: MonthFigures = {
    ...{ leads: 412, leadsBefore: 233, leadsChanged: 'up', inTime: { did: 380, of: 400 } },
    ...{
      booked: 61,
      bookedBefore: 46,
      bookedChanged: null,
      kept: 40,
      sales: 12,
      money: { GBP: 648_000, EUR: 5000 },
      moneyBefore: { GBP: 500_050 },
    },
    ...{ cost: {}, back: { GBP: 4900 }, backOfEarlier: { GBP: 4900 }, backSince: { GBP: 1250 } },
    campaigns: [
      campaign('autumn', { booked: 34, cost: { GBP: 111_740 }, rate: { did: 30, of: 150 } }),
      campaign('guitar', { cost: { GBP: 12_997 }, rate: { did: 1, of: 143 } }),
      campaign('', { booked: 27, rate: { did: 20, of: 100 } }),
    ],
  };
  it('is five sentences that can be read aloud', () =>
    expect(monthSentences(figures, words).map(({ text }) => text)).to.deep.equal([
      '412 people came in, more than in October (233).',
      '380 of 400 who came in by themselves were answered within 5 minutes (95 %).',
      '61 appointments were booked, about as many as in October (46); most by autumn: 34, at £32.86 each.',
      'guitar cost £129.97 and brought 143 people, of whom 1 booked: less often than the others, beyond chance.',
      '12 sales came to £6,480 and €50 (in October £5,000.50); £49 went back, all of it of sales of earlier months; £12.50 of the month’s sales has gone back since it ended.',
    ]));
  it('says so where there is nothing to say', () => {
    const none: MonthFigures = {
      ...{
        leads: 0,
        leadsBefore: 0,
        leadsChanged: null,
        inTime: { did: 0, of: 0 },
        booked: 0,
        bookedBefore: 0,
        bookedChanged: null,
        kept: 0,
        sales: 0,
      },
      ...{ money: {}, moneyBefore: {}, cost: {}, back: {}, backOfEarlier: {}, backSince: {}, campaigns: [] },
    };
    expect(monthSentences(none, words).map(({ text }) => text)).to.deep.equal([
      '0 people came in.',
      'Nobody waited for an answer.',
      '0 appointments were booked; none of them by a campaign.',
      'Nothing is told of what advertising cost; put it in under Costs.',
      'Nothing was sold.',
    ]);
  });
  it('goes out at eight by the business’s clock, in winter and in summer, and over the end of the year', () => {
    const next = (now: string, day: number) =>
      new Date(nextMonthPage(Date.parse(now), day, 'Europe/London')).toISOString();
    expect(next('2026-03-29T00:00Z', 1)).to.equal('2026-04-01T07:00:00.000Z');
    expect(next('2026-11-02T07:59Z', 2)).to.equal('2026-11-02T08:00:00.000Z');
    expect(next('2026-11-02T08:00Z', 2)).to.equal('2026-12-02T08:00:00.000Z');
    expect(next('2026-12-31T12:00Z', 28)).to.equal('2027-01-28T08:00:00.000Z');
    expect([monthBefore('2026-01'), daysOfMonth('2024-02')]).to.deep.equal([
      '2025-12',
      { from: '2024-02-01', to: '2024-02-29' },
    ]);
  });
});
