import { expect } from 'chai';
import nodeIcal from 'node-ical';
import { readIcs } from '../../src/core/appointments/read-ics.ts';

const calendar = (...lines: string[]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Test//EN', ...lines, 'END:VCALENDAR', ''].join('\r\n');
const event = (uid: string, ...lines: string[]) => [
  'BEGIN:VEVENT',
  `UID:${uid}`,
  'DTSTAMP:20260101T000000Z',
  ...lines,
  'END:VEVENT',
];
const NOW = Date.parse('2026-11-27T12:00:00Z');
const read = (text: string, zone = 'Australia/Sydney') =>
  readIcs(text, zone, NOW).times.map(({ startsAt, endsAt }) => [startsAt.toISOString(), endsAt.toISOString()]);

/** Source: RFC 5545 (iCalendar); where it says so, judged by node-ical, which shares no code with ours. */
describe('calendar files (RFC 5545)', () => {
  it('a time without a zone, and a whole day, are meant where the business is (§3.3.5 form 1, §3.3.4)', () => {
    const text = calendar(
      ...event('float', 'DTSTART:20261201T090000', 'DTEND:20261201T100000'),
      ...event('day', 'DTSTART;VALUE=DATE:20261202', 'DTEND;VALUE=DATE:20261203'),
    );
    expect(read(text)).to.deep.equal([
      ['2026-11-30T22:00:00.000Z', '2026-11-30T23:00:00.000Z'],
      ['2026-12-01T13:00:00.000Z', '2026-12-02T13:00:00.000Z'],
    ]);
    expect(read(text, 'America/New_York')[0]).to.deep.equal(['2026-12-01T14:00:00.000Z', '2026-12-01T15:00:00.000Z']);
  });

  it('a named zone is that zone, with or without its description; one nobody knows is the business’s', () => {
    const at = (zone: string) =>
      read(
        calendar(...event('z', `DTSTART;TZID=${zone}:20261201T090000`, `DTEND;TZID=${zone}:20261201T093000`)),
      )[0]![0];
    expect(at('Europe/London')).to.equal('2026-12-01T09:00:00.000Z');
    expect(at('America/New_York')).to.equal('2026-12-01T14:00:00.000Z');
    expect(at('Our school time')).to.equal('2026-11-30T22:00:00.000Z');
    const described = calendar(
      'BEGIN:VTIMEZONE',
      'TZID:Our school time',
      'BEGIN:STANDARD',
      'DTSTART:19700101T000000',
      'TZOFFSETFROM:+0530',
      'TZOFFSETTO:+0530',
      'END:STANDARD',
      'END:VTIMEZONE',
      ...event('z', 'DTSTART;TZID=Our school time:20261201T090000', 'DTEND;TZID=Our school time:20261201T093000'),
    );
    expect(read(described)[0]![0]).to.equal('2026-12-01T03:30:00.000Z');
    // What one file describes is not known to the next.
    expect(at('Our school time')).to.equal('2026-11-30T22:00:00.000Z');
  });

  it('a series begun twenty-five years ago still takes its time today, by its own wall clock, as node-ical has it', () => {
    const text = calendar(
      ...event(
        'old',
        'DTSTART;TZID=Europe/London:20010101T090000',
        'DTEND;TZID=Europe/London:20010101T093000',
        'RRULE:FREQ=DAILY',
      ),
    );
    const ours = read(text, 'Europe/London').map(([from]) => from);
    const [theirs] = Object.values(nodeIcal.sync.parseICS(text)).filter((one) => one?.type === 'VEVENT');
    const rule = (theirs as { rrule: { between(a: Date, b: Date): Date[] } }).rrule;
    const days = rule
      .between(new Date('2027-03-27T00:00:00Z'), new Date('2027-03-30T23:00:00Z'))
      .map((day) => day.toISOString());
    expect(days).to.have.length(4);
    for (const day of days) expect(ours).to.include(day);
    expect(ours).to.include('2026-12-01T09:00:00.000Z').and.to.include('2027-07-01T08:00:00.000Z');
  });

  it('of a series one time can be cancelled, left out or moved; the others stay (§3.8.4.4, §3.8.5.1)', () => {
    const text = calendar(
      ...event(
        's',
        'DTSTART:20261201T100000Z',
        'DTEND:20261201T110000Z',
        'RRULE:FREQ=DAILY;COUNT=5',
        'EXDATE:20261203T100000Z',
      ),
      ...event(
        's',
        'RECURRENCE-ID:20261202T100000Z',
        'DTSTART:20261202T100000Z',
        'DTEND:20261202T110000Z',
        'STATUS:CANCELLED',
      ),
      ...event('s', 'RECURRENCE-ID:20261204T100000Z', 'DTSTART:20261206T150000Z', 'DTEND:20261206T160000Z'),
    );
    expect(read(text).map(([from]) => from)).to.deep.equal([
      '2026-12-01T10:00:00.000Z',
      '2026-12-06T15:00:00.000Z',
      '2026-12-05T10:00:00.000Z',
    ]);
    const file = readIcs(text, 'UTC', NOW);
    expect(new Set(file.times.map((time) => time.uid)).size).to.equal(3);
    expect([...file.uids]).to.deep.equal(['s']);
  });

  it('what is marked as free, or cancelled, takes no time (§3.8.2.7, §3.8.1.11)', () => {
    const time = ['DTSTART:20261201T100000Z', 'DTEND:20261201T110000Z'];
    const text = calendar(
      ...event('free', ...time, 'TRANSP:TRANSPARENT'),
      ...event('off', ...time, 'STATUS:CANCELLED'),
      ...event('birthdays', 'DTSTART;VALUE=DATE:20000101', 'RRULE:FREQ=YEARLY', 'TRANSP:TRANSPARENT'),
      ...event('busy', ...time, 'TRANSP:OPAQUE'),
    );
    expect(readIcs(text, 'UTC', NOW).times.map((time) => time.uid)).to.deep.equal(['busy']);
  });

  it('a series of every second ends somewhere', () => {
    const text = calendar(...event('fast', 'DTSTART:20000101T000000Z', 'DURATION:PT1S', 'RRULE:FREQ=SECONDLY'));
    expect(readIcs(text, 'UTC', NOW).times).to.have.length(0);
  });
});
