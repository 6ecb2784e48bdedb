import { Temporal as Reference } from '@js-temporal/polyfill';
import { expect } from 'chai';
import fc from 'fast-check';
import { DateTime } from 'luxon';
import { Temporal } from 'temporal-polyfill';
import { heldUntil } from '../../src/core/time/quiet-hours.ts';
import { readDate } from '../../src/core/time/read-date.ts';
import { readInstant } from '../../src/core/time/read-instant.ts';
import { addSpan } from '../../src/core/time/span.ts';
import { atWallClock } from '../../src/core/time/zone.ts';
import type { At } from '../../src/core/workflow/at.ts';
import { type Clocks, whenDue } from '../../src/core/workflow/when-due.ts';

const at = (iso: string) => Date.parse(iso);
const iso = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString().replace('.000Z', 'Z'));

describe('quiet hours against 47 CFR §64.1200(c)(1) (text from memory; instants two libraries agreed on)', () => {
  const open = { from: '08:00', to: '21:00' };
  const cases: [string, string, string | null][] = [
    ['2025-03-09T01:59:59Z', 'America/New_York', null],
    ['2025-03-09T02:00:00Z', 'America/New_York', '2025-03-09T12:00:00Z'],
    ['2025-11-02T01:30:00Z', 'America/New_York', '2025-11-02T13:00:00Z'],
    ['2025-03-30T06:30:00Z', 'Europe/London', '2025-03-30T07:00:00Z'],
    ['2025-10-26T21:00:00Z', 'Europe/London', '2025-10-27T08:00:00Z'],
    ['2025-06-01T02:14:59Z', 'Asia/Kathmandu', '2025-06-01T02:15:00Z'],
    ['2025-06-01T14:30:00Z', 'America/Phoenix', '2025-06-01T15:00:00Z'],
    ['2025-06-01T15:30:00Z', 'Asia/Kolkata', '2025-06-02T02:30:00Z'],
  ];
  for (const [instant, zone, until] of cases)
    it(`${instant} in ${zone}: ${until ?? 'goes at once'}`, () =>
      expect(iso(heldUntil(at(instant), open, zone))).to.equal(until));

  it('whatever is held goes out inside the hours, within a day and an hour, by the clock of luxon', () => {
    const zones = ['Europe/London', 'America/New_York', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'Pacific/Apia'];
    fc.assert(
      fc.property(
        fc.integer({ min: at('2024-01-01T00:00Z'), max: at('2027-01-01T00:00Z') }),
        fc.constantFrom(...zones),
        fc.constantFrom({ from: '08:00', to: '21:00' }, { from: '09:30', to: '17:00' }, { from: '20:00', to: '02:00' }),
        (instant, zone, hours) => {
          const until = heldUntil(instant, hours, zone) ?? instant;
          const clock = DateTime.fromMillis(until, { zone }).toFormat('HH:mm');
          const inside =
            hours.from < hours.to ? clock >= hours.from && clock < hours.to : clock >= hours.from || clock < hours.to;
          expect(inside, `${clock} in ${zone}`).to.equal(true);
          expect(until - instant).to.be.within(0, 25 * 3_600_000);
        },
      ),
    );
  });
});

describe('spans and wall clocks', () => {
  it('"a day later" keeps the hour over a change of clocks; a month has the days it has', () => {
    const zone = 'America/New_York';
    const later = (from: string, amount: number, unit: 'days' | 'months') =>
      iso(addSpan(at(from), { amount, unit }, zone));
    expect(later('2025-03-08T14:00:00Z', 1, 'days')).to.equal('2025-03-09T13:00:00Z');
    expect(later('2025-11-01T13:00:00Z', 1, 'days')).to.equal('2025-11-02T14:00:00Z');
    expect(later('2025-01-31T14:00:00Z', 1, 'months')).to.equal('2025-02-28T14:00:00Z');
    expect(later('2024-01-31T14:00:00Z', 1, 'months')).to.equal('2024-02-29T14:00:00Z');
  });
  it('a time in the gap is taken with the offset before it, one that comes twice is the first (RFC 5545 §3.3.5)', () => {
    const wall = (date: string, time: string) =>
      iso(atWallClock(Temporal.PlainDate.from(date), time, 'America/New_York'));
    expect(wall('2025-03-09', '02:30')).to.equal('2025-03-09T07:30:00Z');
    // luxon takes the second, 06:30Z; the standard and Temporal the first.
    expect(wall('2025-11-02', '01:30')).to.equal('2025-11-02T05:30:00Z');
  });
  it('agrees with the reference implementation of Temporal on any day, time and zone', () => {
    const day = fc.date({ min: new Date('1990-01-01'), max: new Date('2050-01-01'), noInvalidDate: true });
    fc.assert(
      fc.property(
        day,
        fc.integer({ min: 0, max: 1439 }),
        fc.constantFrom(
          'Europe/London',
          'America/Sao_Paulo',
          'Australia/Lord_Howe',
          'Africa/Casablanca',
          'Asia/Tehran',
        ),
        fc.integer({ min: 1, max: 40 }),
        (date, minute, zone, days) => {
          const text = date.toISOString().slice(0, 10);
          const time = `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
          const ours = atWallClock(Temporal.PlainDate.from(text), time, zone);
          const theirs = Reference.PlainDate.from(text).toZonedDateTime({
            timeZone: zone,
            plainTime: Reference.PlainTime.from(time),
          });
          expect(ours).to.equal(theirs.epochMilliseconds);
          expect(addSpan(ours, { amount: days, unit: 'days' }, zone)).to.equal(theirs.add({ days }).epochMilliseconds);
        },
      ),
    );
  });
  it('reads instants of RFC 3339 §5.8, and refuses a day that is not', () => {
    const read = (text: string) => iso(readInstant(text, 'GB', 'UTC')?.at ?? null);
    expect(read('1996-12-19T16:39:57-08:00')).to.equal('1996-12-20T00:39:57Z');
    expect(read('1985-04-12T23:20:50.52Z')).to.equal('1985-04-12T23:20:50.520Z');
    // `Date` would make 1 March of it without a word.
    expect(read('2025-02-29T00:00:00Z')).to.equal(null);
    expect(read('2024-02-29T00:00:00Z')).to.equal('2024-02-29T00:00:00Z');
  });
});

describe('dates as people write them (short forms by country: CLDR, from memory)', () => {
  for (const [typed, country, date] of [
    ['03/04/2026', 'GB', '2026-04-03'],
    ['03/04/2026', 'US', '2026-03-04'],
    ['25/12/2026', 'US', '2026-12-25'],
    ['3.4.26', 'DE', '2026-04-03'],
    ['2026-04-03', 'US', '2026-04-03'],
    ['3rd April 2026', 'GB', '2026-04-03'],
    ['Friday, April 3rd, 2026 at 10:30', 'GB', '2026-04-03'],
    ['3 Sept 2026', 'GB', '2026-09-03'],
    ['3 April 26', 'GB', '2026-04-03'],
    ['Apr. 3 2026', 'GB', '2026-04-03'],
    ['20260403', 'GB', '2026-04-03'],
    ['29/2/24', 'GB', '2024-02-29'],
    ['1/1/50', 'GB', '1950-01-01'],
    ['1/1/49', 'GB', '2049-01-01'],
    ['31/02/2026', 'GB', null],
    ['13/13/2026', 'US', null],
    ['3/4-2026', 'GB', null],
    ['24.3.3', 'GB', null],
    ['3 Foo 2026', 'GB', null],
    ['3 Ma 2026', 'GB', null],
    ['3 Apri 2026', 'GB', null],
    ['1/1/1799', 'GB', null],
    ['1/1/2300', 'GB', null],
    [`3 April 2026${' '.repeat(40)}x`, 'GB', null],
    ['next Tuesday', 'GB', null],
    ['', 'GB', null],
  ] as const)
    it(`“${typed}” in ${country} is ${date ?? 'no date'}`, () => expect(readDate(typed, country)).to.equal(date));

  it('whatever way luxon writes a date, it is that date, with or without a time behind it', () => {
    const FORMS = [
      'yyyy-MM-dd',
      'yyyy/M/d',
      'yyyyMMdd',
      'd MMM yyyy',
      'd MMMM yyyy',
      'MMM d, yyyy',
      'cccc d MMMM yyyy',
      'd-MMM-yyyy',
    ];
    const DAYS = { GB: ['dd/MM/yyyy', 'd.M.yyyy', 'd-M-yy'], US: ['MM/dd/yyyy', 'M/d/yy'] };
    fc.assert(
      fc.property(
        fc.date({ min: new Date('1950-01-01'), max: new Date('2049-12-31'), noInvalidDate: true }),
        fc.constantFrom('GB' as const, 'US' as const),
        fc.nat(),
        fc.constantFrom('', ' 10:30', ' at 5 pm'),
        (day, country, n, time) => {
          const forms = [...FORMS, ...DAYS[country]];
          const date = DateTime.fromJSDate(day, { zone: 'utc' }).setLocale('en');
          expect(readDate(date.toFormat(forms[n % forms.length]!) + time, country)).to.equal(date.toISODate());
        },
      ),
      { numRuns: 500 },
    );
  });
});

describe('when a moment is due', () => {
  const clocks = (more: Partial<Clocks> = {}): Clocks => ({
    previous: at('2026-11-27T16:00:00Z'),
    now: at('2026-11-27T16:00:00Z'),
    leadZone: null,
    businessZone: 'Europe/London',
    country: 'GB',
    holidays: [],
    field: () => null,
    ...more,
  });
  const due = (when: At, more: Partial<Clocks> = {}) => {
    const found = whenDue(when, clocks(more));
    return 'at' in found ? iso(found.at) : found.skip;
  };
  const nine: At = { kind: 'time_of_day', time: '09:00', day: 'next_day', workingDays: false, whose: 'lead' };

  it('next morning by the lead’s clock, by ours where theirs is unknown', () => {
    expect(due(nine)).to.equal('2026-11-28T09:00:00Z');
    expect(due(nine, { leadZone: 'Asia/Tokyo' })).to.equal('2026-11-29T00:00:00Z');
  });
  it('soonest: today while the time is still to come, never twice at the same instant', () => {
    const evening: At = { ...nine, time: '18:00', day: 'soonest' };
    expect(due(evening)).to.equal('2026-11-27T18:00:00Z');
    expect(due(evening, { previous: at('2026-11-27T18:00:00Z') })).to.equal('2026-11-28T18:00:00Z');
  });
  it('working days pass over the weekend and the holidays', () => {
    const working: At = { ...nine, workingDays: true };
    expect(due(working)).to.equal('2026-11-30T09:00:00Z');
    expect(due(working, { holidays: ['2026-11-30'] })).to.equal('2026-12-01T09:00:00Z');
  });
  it('over the night the clocks change it is still nine', () => {
    expect(due(nine, { previous: at('2026-03-28T12:00:00Z') })).to.equal('2026-03-29T08:00:00Z');
    expect(due(nine, { previous: at('2026-10-24T12:00:00Z') })).to.equal('2026-10-25T09:00:00Z');
  });
  const before: At = {
    kind: 'on_date',
    field: 'answers.lesson',
    side: 'before',
    span: { amount: 1, unit: 'days' },
    time: '17:00',
    whose: 'business',
    ifPassed: 'skip',
  };
  it('a day before the date they gave, hours before its own time, a leap day too', () => {
    const field = () => '1 March 2028, 10:30';
    expect(due(before, { field })).to.equal('2028-02-29T17:00:00Z');
    expect(due({ ...before, span: { amount: 2, unit: 'hours' } }, { field })).to.equal('2028-03-01T08:30:00Z');
  });
  it('without a date it is left out; passed, it is left out or done at once, as was said', () => {
    expect(due(before)).to.equal('no-date');
    expect(due(before, { field: () => 'soon' })).to.equal('no-date');
    expect(due(before, { field: () => '1 March 2020' })).to.equal('passed');
    expect(due({ ...before, ifPassed: 'at_once' }, { field: () => '1 March 2020' })).to.equal('2020-02-29T17:00:00Z');
  });
});
