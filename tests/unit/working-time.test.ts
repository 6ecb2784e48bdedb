import { expect } from 'chai';
import fc from 'fast-check';
import { suits, WorkingTime, worksAgain, worksOn } from '../../src/core/people/working-time.ts';

const ZONE = 'Europe/London';
const at = (text: string) => Date.parse(text);
const office = { from: '09:00', to: '17:00' };
/** Monday to Friday, Wednesday short; a week off in August 2026, and a day. */
const working: WorkingTime = {
  week: [office, office, { from: '09:00', to: '12:30' }, office, office, null, null],
  off: [
    { from: '2026-08-10', to: '2026-08-16' },
    { from: '2026-11-30', to: '2026-11-30' },
  ],
};

describe('when somebody works', () => {
  it('is by day of the week, but for days off from the first to the last', () => {
    expect(
      ['2026-08-07', '2026-08-08', '2026-08-10', '2026-08-14', '2026-08-17'].map((day) => worksOn(working, day)),
    ).to.deep.equal([...[true, false, false, false, true]]);
    expect(worksOn(null, '2026-08-08')).to.equal(true);
  });

  for (const [now, when, why] of [
    ['2026-11-25T10:00:00Z', null, 'at work'],
    ['2026-11-25T12:30:00Z', '2026-11-26T09:00:00Z', 'Wednesday ends at half past twelve'],
    ['2026-11-25T08:59:59Z', '2026-11-25T09:00:00Z', 'a moment early'],
    ['2026-11-27T18:00:00Z', '2026-12-01T09:00:00Z', 'Friday evening, and Monday is off'],
    ['2026-08-08T12:00:00Z', '2026-08-17T08:00:00Z', 'a week off, and summer time'],
    // The clocks go back on 25 October 2026 at 02:00: nine is an hour later after it.
    ['2026-10-23T16:30:00Z', '2026-10-26T09:00:00Z', 'over the night the clocks go back'],
  ] as const)
    it(`again after ${now}: ${why}`, () => {
      expect(worksAgain(working, at(now), ZONE)).to.equal(when === null ? null : at(when));
    });

  it('goes by the clock of the business, not of whoever looks', () => {
    const now = at('2026-11-25T20:00:00Z');
    expect(worksAgain(working, now, 'America/New_York')).to.equal(at('2026-11-26T14:00:00Z'));
    expect(worksAgain(working, now, 'Pacific/Auckland')).to.equal(null);
  });

  it('is nothing that waits for ever: whoever is off for years is told all the same', () => {
    expect(
      worksAgain({ ...working, off: [{ from: '2026-01-01', to: '2099-12-31' }] }, at('2026-11-25T20:00:00Z'), ZONE),
    ).to.equal(null);
  });

  it('always gives a moment they are at work, whatever the hours, the day and the zone', () => {
    // After four: no clock goes forward or back then.
    const clock = fc.integer({ min: 240, max: 1438 });
    const written = (minutes: number) =>
      `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
    const hours = fc
      .tuple(clock, fc.integer({ min: 1, max: 600 }))
      .map(([from, long]) => ({ from: written(from), to: written(Math.min(from + long, 1439)) }));
    fc.assert(
      fc.property(
        fc.array(fc.option(hours), { minLength: 7, maxLength: 7 }).filter((week) => week.some((day) => day !== null)),
        fc.integer({ min: at('2026-01-01T00:00:00Z'), max: at('2027-12-31T00:00:00Z') }),
        fc.constantFrom('Europe/London', 'America/New_York', 'Asia/Kolkata', 'Australia/Lord_Howe', 'UTC'),
        (week, now, zone) => {
          const when = worksAgain({ week, off: [] }, now, zone);
          if (when === null) return;
          expect(when).to.be.greaterThan(now);
          expect(worksAgain({ week, off: [] }, when, zone)).to.equal(null);
          expect(suits({ week, off: [] }, when, zone)).to.equal(2);
        },
      ),
      { numRuns: 300 },
    );
  });

  it('suits best at work, then on a working day, then not', () => {
    expect(
      ['2026-11-25T10:00:00Z', '2026-11-25T20:00:00Z', '2026-11-28T10:00:00Z'].map((now) =>
        suits(working, at(now), ZONE),
      ),
    ).to.deep.equal([2, 1, 0]);
    expect(suits(null, at('2026-11-28T03:00:00Z'), ZONE)).to.equal(2);
  });

  it('refuses what cannot be, in words', () => {
    const said = (input: unknown) => WorkingTime.safeParse(input).error?.issues[0]?.message;
    expect(said({ week: Array(7).fill(null), off: [] })).to.match(/one day at least/);
    expect(said({ week: [{ from: '17:00', to: '09:00' }, ...Array(6).fill(null)], off: [] })).to.match(
      /after its beginning/,
    );
    expect(said({ ...working, off: [{ from: '2026-02-02', to: '2026-02-01' }] })).to.match(/before the first/);
    expect(said({ ...working, off: [{ from: '', to: '' }] })).to.match(/first day off/);
    expect(said({ week: [{ from: '9', to: '17:00' }, ...Array(6).fill(null)], off: [] })).to.match(/09:00/);
  });
});
