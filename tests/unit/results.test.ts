import { expect } from 'chai';
import fc from 'fast-check';
import { CREDIT, creditsOf, type LeadFacts, type TouchAt } from '../../src/core/results/credits.ts';
import { MODELS, type Model } from '../../src/core/results/models.ts';
import { marksOf } from '../../src/core/results/origin.ts';
import {
  appointmentOutcomes,
  dealOutcomes,
  isSale,
  orderOutcomes,
  readMoney,
} from '../../src/core/results/outcomes.ts';
import { inOwnCurrency } from '../../src/core/results/rates.ts';
import { changeOf, rateOf, resultTable, type Sum } from '../../src/core/results/table.ts';
import { dayOf } from '../../src/core/time/day-of.ts';

const DAY = 86_400_000;
const touch = (at: number, campaign: string): TouchAt => ({ at, origin: { ...marksOf({ campaign }), sourceId: null } });
const lead = (facts: Partial<LeadFacts>): LeadFacts => ({
  ...{ createdAt: 0, touches: [touch(0, 'autumn')], sourceId: null, answeredAt: null, outcomes: [] },
  ...facts,
});
/** What each campaign is credited with, in hundredths of an outcome. */
const shares = (facts: LeadFacts, kind: string, model: Model) =>
  Object.fromEntries(
    creditsOf(facts)
      .filter((credit) => credit.kind === kind)
      .map(({ origin, shares }) => [origin.campaign, Math.round((shares[model] * 100) / CREDIT)]),
  );

describe('credits', () => {
  const booked = { key: 'a', kind: 'booked' as const, at: 21 * DAY, money: null, currency: '' };
  const three = lead({
    touches: [touch(0, 'autumn'), touch(7 * DAY, 'guitar'), touch(14 * DAY, 'piano'), touch(30 * DAY, 'late')],
    outcomes: [booked],
  });
  it('go to the touches before it happened, as each model says', () => {
    expect(shares(three, 'booked', 'first')).to.deep.equal({ autumn: 100, guitar: 0, piano: 0 });
    expect(shares(three, 'booked', 'last')).to.deep.equal({ autumn: 0, guitar: 0, piano: 100 });
    expect(shares(three, 'booked', 'even')).to.deep.equal({ autumn: 33, guitar: 33, piano: 33 });
    expect(shares(three, 'booked', 'ends')).to.deep.equal({ autumn: 40, guitar: 20, piano: 40 });
    // One, two and four parts of seven.
    expect(shares(three, 'booked', 'fading')).to.deep.equal({ autumn: 14, guitar: 29, piano: 57 });
  });
  it('of somebody who came without any touch go to their source, unmarked', () => {
    const [credit] = creditsOf(lead({ touches: [], sourceId: 'form' }));
    expect(credit!.origin).to.deep.equal({ ...marksOf({}), sourceId: 'form' });
    expect(credit!.shares.even).to.equal(CREDIT);
  });
  it('of what happened before the first touch do not go to it', () => {
    const before = { ...booked, at: -5 * DAY };
    expect(shares(lead({ outcomes: [before], touches: [touch(0, 'autumn')] }), 'booked', 'first')).to.deep.equal({
      '': 100,
    });
  });
  it('count who was answered within five minutes to the millisecond', () => {
    const kinds = (answeredAt: number | null) => creditsOf(lead({ answeredAt })).map(({ kind }) => kind);
    expect(kinds(null)).to.deep.equal(['lead']);
    expect(kinds(300_000)).to.deep.equal(['lead', 'answered', 'in_five']);
    expect(kinds(300_001)).to.deep.equal(['lead', 'answered']);
  });
  it('name the first of each kind only once', () => {
    const twice = lead({ outcomes: [booked, { ...booked, key: 'b', at: 40 * DAY }] });
    expect(creditsOf(twice).filter(({ kind, first }) => kind === 'booked' && first).length).to.equal(1);
  });

  const someTouch = fc.record({
    at: fc.integer({ min: 0, max: 90 * DAY }),
    campaign: fc.constantFrom('a', 'b', 'c', ''),
  });
  const someOutcome = fc.record({
    ...{ key: fc.uuid(), kind: fc.constantFrom('booked', 'won', 'refunded', 'own:x') },
    at: fc.integer({ min: -DAY, max: 120 * DAY }),
    money: fc.oneof(fc.constant(null), fc.integer({ min: -9_999_999, max: 999_999_999_99 })),
  });
  it('add up to the whole in every model: each outcome once, each amount to the penny', () =>
    fc.assert(
      fc.property(
        fc.array(someTouch, { maxLength: 12 }),
        fc.array(someOutcome, { maxLength: 6 }),
        (touches, outcomes) => {
          const facts = lead({
            touches: touches.map(({ at, campaign }) => touch(at, campaign)).sort((a, b) => a.at - b.at),
            outcomes: outcomes.map((one) => ({
              ...one,
              kind: one.kind as 'won',
              currency: one.money === null ? '' : 'GBP',
            })),
          });
          const credits = creditsOf(facts);
          for (const { key, money } of facts.outcomes)
            for (const model of MODELS) {
              const of = credits.filter((credit) => credit.key === key);
              expect(of.reduce((sum, { shares }) => sum + shares[model], 0)).to.equal(CREDIT);
              expect(of.reduce((sum, credit) => sum + credit.money[model], 0)).to.equal(money ?? 0);
              for (const { shares, money: part } of of) {
                expect(Number.isInteger(shares[model]) && shares[model] >= 0).to.equal(true);
                expect(Number.isInteger(part[model]) && part[model] * (money ?? 0) >= 0).to.equal(true);
              }
            }
        },
      ),
    ));
});

describe('what comes of appointments', () => {
  const told = (event: string, at: number, end: number | null = 100) => ({ event, at, appointment: 'one', end });
  const kinds = (events: ReturnType<typeof told>[], now: number) =>
    appointmentOutcomes(events, now).outcomes.map(({ kind }) => kind);
  it('is booked once, however often it is confirmed or moved', () =>
    expect(kinds([told('booked', 1), told('confirmed', 2), told('moved', 3), told('reminder', 4)], 50)).to.deep.equal([
      'booked',
    ]));
  it('is kept once it is over, and is looked at again when it will be', () => {
    expect(appointmentOutcomes([told('booked', 1)], 50).until).to.equal(100);
    expect(kinds([told('booked', 1)], 100)).to.deep.equal(['booked', 'kept']);
    expect(appointmentOutcomes([told('booked', 1)], 100).until).to.equal(null);
  });
  it('is never kept where nobody says when it ends', () =>
    expect(kinds([told('booked', 1, null)], 1e12)).to.deep.equal(['booked']));
  it('goes by what was told last: missed, cancelled, or moved after all', () => {
    expect(kinds([told('booked', 1), told('no-show', 110)], 200)).to.deep.equal(['booked', 'missed']);
    expect(kinds([told('booked', 1), told('cancelled', 20)], 200)).to.deep.equal(['booked', 'cancelled']);
    expect(kinds([told('booked', 1), told('cancelled', 20), told('moved', 30, 150)], 200)).to.deep.equal([
      'booked',
      'kept',
    ]);
  });
});

describe('what comes of orders', () => {
  const told = (state: string, at: number, total: number | null) => ({
    event: '',
    state,
    at,
    total,
    order: '7',
    currency: 'GBP',
  });
  const money = (events: ReturnType<typeof told>[]) =>
    orderOutcomes(events).map(({ kind, money, at }) => [kind, money, at]);
  it('is counted once, however often the shop tells of it', () =>
    expect(money([told('placed', 1, 4900), told('sent', 2, 4900), told('delivered', 3, null)])).to.deep.equal([
      ['ordered', 4900, 1],
    ]));
  it('is corrected when its total changes, at the time of the change', () =>
    expect(money([told('placed', 1, 4900), told('sent', 5, 3000), told('sent', 9, 3500)])).to.deep.equal([
      ['ordered', 4900, 1],
      ['refunded', -1900, 5],
      ['ordered', 500, 9],
    ]));
  it('gives all of it back once, when it is sent back', () =>
    expect(money([told('placed', 1, 4900), told('Returned', 40, 4900), told('refunded', 41, 0)])).to.deep.equal([
      ['ordered', 4900, 1],
      ['refunded', -4900, 40],
    ]));
  it('is paid again when it is not sent back after all', () =>
    expect(
      orderOutcomes([told('placed', 1, 4900), told('cancelled', 2, null), told('sent', 3, 4900)]).reduce(
        (sum, { money }) => sum + money!,
        0,
      ),
    ).to.equal(4900));
  it('reads amounts as shops write them, and nothing that is none', () => {
    expect(readMoney('49.00 GBP')).to.deep.equal({ hundredths: 4900, currency: 'GBP' });
    expect(readMoney('0.29')).to.deep.equal({ hundredths: 29, currency: '' });
    expect(readMoney('-3 EUR')).to.deep.equal({ hundredths: -300, currency: 'EUR' });
    for (const text of ['', 'free', '1e9', '1,50 EUR', '9'.repeat(40), '5 gbp'])
      expect(readMoney(text), text).to.equal(null);
  });
});

describe('what comes of deals', () => {
  const DAY_MS = 86_400_000;
  const deal = (more: object) =>
    dealOutcomes({ id: 'd', ends: null, at: null, value: 48_000, currency: 'GBP', won: [], ...more }).map(
      ({ kind, at, money }) => [kind, at, money],
    );
  it('is won with its value, or lost, once', () => {
    expect(deal({ ends: 'won', at: 5, won: [{ from: 5, to: null }] })).to.deep.equal([['won', 5, 48_000]]);
    expect(deal({ ends: 'lost', at: 9 })).to.deep.equal([['lost', 9, null]]);
    expect(deal({})).to.deep.equal([]);
  });
  it('gives its money back when it is not won any more, and was not dragged there by mistake', () => {
    expect(deal({ ends: 'lost', at: 40 * DAY_MS, won: [{ from: 5, to: 40 * DAY_MS }] })).to.deep.equal([
      ['won', 5, 48_000],
      ['refunded', 40 * DAY_MS, -48_000],
      ['lost', 40 * DAY_MS, null],
    ]);
    expect(deal({ ends: 'lost', at: 99, won: [{ from: 5, to: 99 }] })).to.deep.equal([['lost', 99, null]]);
  });
});

describe('names of where somebody came from', () => {
  it('are the ad form’s own before those of its link, and the host of a referrer where nothing names the site', () => {
    expect(marksOf({ campaign: 'autumn', utm_campaign: 'Autumn (copy)', ad: 'clip', utm_content: 'x' })).to.include({
      campaign: 'autumn',
      ad: 'clip',
    });
    expect(marksOf({ referrer: 'https://www.news.example/a?b' }).site).to.equal('news.example');
    expect(marksOf({ referrer: 'not an address', utm_source: '  spring \n mail ' }).site).to.equal('spring mail');
  });
});

describe('money of two currencies', () => {
  const rates = [
    { currency: 'EUR', day: '2026-03-01', rate: 0.85 },
    { currency: 'EUR', day: '2026-04-01', rate: 0.9 },
  ];
  it('is reckoned by the rate of its day, and stays as it is before there is one', () => {
    expect(inOwnCurrency(1000, 'EUR', 'GBP', '2026-02-28', rates)).to.deep.equal({ money: 1000, currency: 'EUR' });
    expect(inOwnCurrency(1000, 'EUR', 'GBP', '2026-03-31', rates)).to.deep.equal({ money: 850, currency: 'GBP' });
    expect(inOwnCurrency(-1000, 'EUR', 'GBP', '2026-04-01', rates)).to.deep.equal({ money: -900, currency: 'GBP' });
    expect(inOwnCurrency(1000, 'USD', 'GBP', '2026-04-01', rates)).to.deep.equal({ money: 1000, currency: 'USD' });
  });
});

describe('the day of an instant', () => {
  it('is the business’s own, on days of 23 and of 25 hours too', () => {
    const day = (text: string) => dayOf(Date.parse(text), 'Europe/London');
    expect([
      day('2026-03-28T23:59:59Z'),
      day('2026-03-29T00:00Z'),
      day('2026-03-29T22:59Z'),
      day('2026-03-29T23:00Z'),
    ]).to.deep.equal(['2026-03-28', '2026-03-29', '2026-03-29', '2026-03-30']);
    expect([day('2026-10-24T23:00Z'), day('2026-10-25T23:59Z'), day('2026-10-26T00:00Z')]).to.deep.equal([
      '2026-10-25',
      '2026-10-25',
      '2026-10-26',
    ]);
  });
});

describe('the table of results', () => {
  const sum = (
    path: string[],
    kind: string,
    credits: number,
    money = 0,
    when: 'now' | 'before' = 'now',
    people = Math.round(credits / CREDIT),
  ): Sum => ({
    ...{ path, kind, when, credits, money, people, currency: money === 0 ? '' : 'GBP' },
  });
  it('has rows that are the exact sums of those below them, in money and in credits', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            path: fc.tuple(fc.constantFrom('a', 'b', ''), fc.constantFrom('x', 'y', ''), fc.constantFrom('1', '2')),
            kind: fc.constantFrom('lead', 'won', 'refunded'),
            credits: fc.integer({ min: 0, max: 9 * CREDIT }),
            money: fc.integer({ min: -1e6, max: 1e9 }),
          }),
        ),
        (sums) => {
          const all = resultTable(
            sums.map(({ path, kind, credits, money }) => sum(path, kind, credits, money)),
            [],
            isSale,
          );
          const check = (row: typeof all): void => {
            if (row.children.length === 0) return;
            for (const kind of ['lead', 'won'])
              expect(row.children.reduce((n, child) => n + (child.now.n[kind] ?? 0), 0)).to.equal(row.now.n[kind] ?? 0);
            for (const which of ['sales', 'refunds'] as const)
              expect(row.children.reduce((n, child) => n + (child.now[which].GBP ?? 0), 0)).to.equal(
                row.now[which].GBP ?? 0,
              );
            row.children.forEach(check);
          };
          check(all);
          expect((all.now.sales.GBP ?? 0) + (all.now.refunds.GBP ?? 0)).to.equal(
            sums.filter(({ kind }) => isSale(kind)).reduce((n, { money }) => n + money, 0),
          );
        },
      ),
    ));
  it('names no change that may be chance, and one that is none', () => {
    const row = (now: number, before: number) =>
      resultTable(
        [
          sum(['a'], 'lead', 1000 * CREDIT),
          sum(['a'], 'lead', 1000 * CREDIT, 0, 'before'),
          sum(['a'], 'booked', now * CREDIT),
          sum(['a'], 'booked', before * CREDIT, 0, 'before'),
        ],
        [],
        isSale,
      );
    const month = { now: 28, before: 28 };
    expect([changeOf(row(40, 33), 'booked', month), rateOf(row(40, 33), 'booked')!.changed]).to.deep.equal([
      null,
      null,
    ]);
    expect([changeOf(row(80, 33), 'booked', month), rateOf(row(80, 33), 'booked')!.changed]).to.deep.equal([
      'up',
      'up',
    ]);
    expect([changeOf(row(33, 80), 'booked', month), rateOf(row(33, 80), 'booked')!.changed]).to.deep.equal([
      'down',
      'down',
    ]);
  });
});
