import { expect } from 'chai';
import fc from 'fast-check';
import type { Answer } from '../../src/core/delivery/answer.ts';
import { MOST_ASKED_MS, retryFor } from '../../src/core/delivery/backoff.ts';
import { type Leaving, outcomeOf, passageOf } from '../../src/core/delivery/passage.ts';

const HOUR = 3_600_000;
const LATER = { tomorrow: 24 * HOUR, soon: 600_000 };

/** Counters that say yes or no, and write down what was taken of them. */
function counters(news: boolean, parts: boolean) {
  const asked: string[] = [];
  return {
    asked,
    news: async () => {
      asked.push('news');
      return news;
    },
    parts: async (n: number) => {
      asked.push(`parts ${n}`);
      return parts;
    },
  };
}
const free: Leaving<string> = { stop: null, opensAt: null, news: false, parts: 0 };

describe('whether a message may leave', () => {
  it('goes where nothing stands against it, and nothing is counted that does not count', async () => {
    const counted = counters(false, false);
    expect(await passageOf(free, counted, LATER)).to.deep.equal({ may: 'go' });
    expect(counted.asked).to.deep.equal([]);
  });

  it('a no holds above everything; then the hours; then what one person gets in a day; then what the business sends', async () => {
    const all: Leaving<string> = { stop: 'asked for no more', opensAt: 5, news: true, parts: 2 };
    const counted = counters(false, false);
    expect(await passageOf(all, counted, LATER)).to.deep.equal({ may: 'not', why: 'asked for no more' });
    expect(await passageOf({ ...all, stop: null }, counted, LATER)).to.deep.equal({
      may: 'later',
      at: 5,
      held: 'hours',
    });
    expect(counted.asked, 'nothing is taken for what does not go').to.deep.equal([]);
    expect(await passageOf({ ...all, stop: null, opensAt: null }, counted, LATER)).to.deep.equal({
      ...{ may: 'later', at: LATER.tomorrow, held: 'news' },
    });
    expect(counted.asked, 'no part of a text for what waits for tomorrow').to.deep.equal(['news']);
    expect(await passageOf({ ...all, stop: null, opensAt: null }, counters(true, false), LATER)).to.deep.equal({
      ...{ may: 'later', at: LATER.soon, held: 'parts' },
    });
  });

  it('whatever stands against it: it goes only with a yes of everybody who was to be asked, and each is asked once', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.record({
          stop: fc.option(fc.constant('no'), { nil: null }),
          opensAt: fc.option(fc.nat(), { nil: null }),
          news: fc.boolean(),
          parts: fc.nat(3),
        }),
        fc.boolean(),
        fc.boolean(),
        async (leaving, news, parts) => {
          const counted = counters(news, parts);
          const { may } = await passageOf(leaving, counted, LATER);
          const good =
            leaving.stop === null &&
            leaving.opensAt === null &&
            (!leaving.news || news) &&
            (leaving.parts === 0 || parts);
          expect(may === 'go').to.equal(good);
          expect(new Set(counted.asked).size).to.equal(counted.asked.length);
          if (leaving.stop !== null || leaving.opensAt !== null) expect(counted.asked).to.deep.equal([]);
        },
      ),
    );
  });
});

const answer = fc.oneof(
  fc.record({
    kind: fc.constant('accepted' as const),
    code: fc.string(),
    detail: fc.string(),
    remoteId: fc.constant('r'),
  }),
  fc.record({
    ...{ kind: fc.constant('again' as const), code: fc.string(), detail: fc.string() },
    afterMs: fc.option(fc.nat(10 * HOUR), { nil: null }),
  }),
  fc.record({ kind: fc.constant('refused' as const), code: fc.string(), detail: fc.string() }),
) as fc.Arbitrary<Answer>;

describe('what becomes of a message after an answer', () => {
  it('taken is taken, refused is refused in their words', () => {
    const at = { rule: retryFor(60), tries: 1, since: 0, now: 0, random: 0.5 };
    expect(outcomeOf({ kind: 'accepted', code: '202', detail: 'ok', remoteId: 'x' }, at)).to.deep.equal({
      ...{ is: 'accepted', remoteId: 'x' },
    });
    expect(outcomeOf({ kind: 'refused', code: '400', detail: 'No such number' }, at)).to.deep.equal({
      ...{ is: 'refused', detail: 'No such number' },
    });
  });

  it('is tried until its time is over, and says then how often and why', () => {
    const away: Answer = { kind: 'again', code: 'away', detail: 'did not answer', afterMs: null };
    const rule = retryFor(1);
    let now = 0;
    let tries = 0;
    for (;;) {
      const outcome = outcomeOf(away, { rule, tries: ++tries, since: 0, now, random: 0.999 });
      if (outcome.is !== 'again') {
        expect(outcome).to.deep.equal({ is: 'refused', detail: `Given up after ${tries} tries: did not answer` });
        break;
      }
      expect(outcome.at).to.be.greaterThan(now).and.at.most(60_000);
      now = outcome.at;
    }
    // 1, 2, 4, 8, 16 and 32 s make 63: the sixth wait would end behind the minute (base 1 s doubled, by hand).
    expect(tries).to.equal(6);
  });

  it('in whatever order the answers come: at most one is taken, nothing follows it, and the next try is never before it was asked for', () => {
    fc.assert(
      fc.property(
        fc.array(answer, { minLength: 1, maxLength: 40 }),
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        (said, random) => {
          const rule = retryFor(240);
          let now = 0;
          let over = false;
          for (const [n, one] of said.entries()) {
            if (over) break;
            const outcome = outcomeOf(one, { rule, tries: n + 1, since: 0, now, random });
            over = outcome.is !== 'again';
            if (outcome.is === 'again') {
              const floor = one.kind === 'again' && one.afterMs !== null ? Math.min(one.afterMs, MOST_ASKED_MS) : 0;
              expect(outcome.at - now).to.be.at.least(floor);
              expect(outcome.at).to.be.at.most(rule.giveUpAfterMs);
              now = outcome.at;
            }
            expect(outcome.is === 'accepted').to.equal(one.kind === 'accepted');
          }
        },
      ),
    );
  });
});
