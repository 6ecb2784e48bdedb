import { expect } from 'chai';
import timeData from 'cldr-core/supplemental/timeData.json' with { type: 'json' };
import { getCountries } from 'libphonenumber-js/max';
import { clockTime, dayWords, whenWords } from '../../src/core/words/instant.ts';
import { clockOf, localeOf, numbersOf } from '../../src/core/words/locale-of.ts';
import { timeOfDay } from '../../src/core/words/time-of-day.ts';

const AFTERNOON = '2026-11-27T15:30:00Z';
const in_ = (country: string, clock?: '12' | '24') => ({ locale: localeOf(country, clock), timeZone: 'UTC' });

describe('how a country writes hours and dates, against CLDR 48 (cldr-core, supplemental/timeData.json)', () => {
  it('counts its hours to 24 or to 12 as CLDR prefers it, for every country with phone numbers', () => {
    const preferred = timeData.supplemental.timeData as Record<string, { _preferred: string } | undefined>;
    const wrong = getCountries().flatMap((country) => {
      const said = preferred[country]?._preferred;
      // Where CLDR says nothing of a region the world's own row counts.
      const twelve = (said ?? preferred['001']!._preferred).startsWith('h');
      const shown = clockTime(AFTERNOON, in_(country));
      return (twelve ? /^3:30\s?p\.?m\.?$/i : /^15[:.h]30$/).test(shown) ? [] : [`${country} ${said}: ${shown}`];
    });
    expect(wrong).to.deep.equal([]);
  });

  it('orders day and month as the country does', () => {
    expect(dayWords(AFTERNOON, in_('GB'))).to.equal('Friday 27 November');
    expect(dayWords(AFTERNOON, in_('BR'))).to.equal('Friday 27 November');
    expect(dayWords(AFTERNOON, in_('US'))).to.equal('Friday November 27');
  });

  it('can be told the other clock, and knows which it was told', () => {
    const now = Date.parse(AFTERNOON);
    expect(whenWords(AFTERNOON, now, in_('GB', '12'))).to.match(/^3:30 pm$/i);
    expect(whenWords(AFTERNOON, now, in_('US', '24'))).to.equal('15:30');
    for (const country of getCountries())
      for (const clock of ['country', '12', '24'] as const) {
        const known = clockOf(localeOf(country, clock), country);
        // Told what its country does anyway, it may be taken for the country's own.
        if (known !== clock) expect(localeOf(country, clock), country).to.equal(localeOf(country));
      }
    expect(timeOfDay('09:00', localeOf('GB'))).to.equal('09:00');
    expect(['00:05', '09:00', '12:00', '21:30', 'noon'].map((time) => timeOfDay(time, localeOf('US')))).to.deep.equal([
      '12:05 am',
      '9:00 am',
      '12:00 pm',
      '9:30 pm',
      'noon',
    ]);
  });

  it('writes numbers with the digits 0 to 9 everywhere', () => {
    for (const country of [...getCountries(), 'XX', ''])
      expect(new Intl.NumberFormat(numbersOf(country)).format(1234.5), country).to.match(/^[\d.,’'\s\u00a0\u202f]+$/);
  });
});
