import { expect } from 'chai';
import {
  clockSeconds,
  clockTime,
  dayKey,
  dayWords,
  exactWords,
  momentWords,
  whenWords,
} from '../../src/core/words/instant.ts';
import { localDay, localHour } from '../../src/core/words/local-hour.ts';
import type { At } from '../../src/core/workflow/at.ts';
import { cameOf, type Happening, type WaitsFor } from '../../src/core/workflow/awaited.ts';
import { samePersonDoes } from '../../src/core/workflow/rules.ts';
import { type Clocks, whenDue } from '../../src/core/workflow/when-due.ts';

const london = { locale: 'en-GB', timeZone: 'Europe/London' };
const tokyo = { locale: 'en-GB', timeZone: 'Asia/Tokyo' };
const NIGHT = '2026-06-30T23:30:05Z';

describe('an instant in words', () => {
  it('goes by the clock of the place, over midnight too', () => {
    expect([clockTime(NIGHT, london), clockTime(NIGHT, tokyo)]).to.deep.equal(['00:30', '08:30']);
    expect(clockSeconds(NIGHT, london)).to.equal('00:30:05');
    expect([dayKey(NIGHT, london), dayKey(NIGHT, { ...london, timeZone: 'UTC' })]).to.deep.equal([
      '01/07/2026',
      '30/06/2026',
    ]);
    expect(dayWords(NIGHT, london)).to.equal('Wednesday 1 July');
    expect(dayWords(NIGHT, { ...london, timeZone: 'UTC' })).to.equal('Tuesday 30 June');
    expect(exactWords(NIGHT, london)).to.match(/^Wednesday,? 1 July 2026 at 00:30:05 BST$/);
    expect([localHour(Date.parse(NIGHT), 'Europe/London'), localHour(Date.parse(NIGHT), 'Asia/Tokyo')]).to.deep.equal([
      0, 8,
    ]);
    expect([localDay(Date.parse(NIGHT), 'Europe/London'), localDay(Date.parse(NIGHT), 'UTC')]).to.deep.equal([
      '2026-07-01',
      '2026-06-30',
    ]);
  });
  it('is only a time on the same day there, and has its day on any other', () => {
    const now = Date.parse('2026-07-01T10:00:00Z');
    expect(whenWords(NIGHT, now, london)).to.equal('00:30');
    expect(whenWords(NIGHT, now, { ...london, timeZone: 'UTC' })).to.equal('Tue 30 Jun, 23:30');
    expect(momentWords(now, 'America/Argentina/Buenos_Aires', 'en-GB')).to.equal('Wed 1 Jul, 07:00 in Buenos Aires');
    expect(momentWords(now, 'UTC', 'en-GB')).to.equal('Wed 1 Jul, 10:00 in UTC');
  });
});

describe('when a moment is due', () => {
  const at = (iso: string) => Date.parse(iso);
  // Friday afternoon; the lead lives five hours behind.
  const clocks = (more: Partial<Clocks> = {}): Clocks => ({
    ...{ previous: at('2026-11-27T15:00:00Z'), now: at('2026-11-27T15:00:00Z') },
    ...{ leadZone: 'America/New_York', businessZone: 'Europe/London', country: 'GB', holidays: ['2026-11-30'] },
    field: () => null,
    ...more,
  });
  const due = (moment: At, more: Partial<Clocks> = {}) => {
    const found = whenDue(moment, clocks(more));
    return 'at' in found ? new Date(found.at).toISOString().slice(0, 16) : `${found.skip}: ${found.text}`;
  };
  const clock = (time: string, more: Partial<Extract<At, { kind: 'time_of_day' }>> = {}): At => ({
    ...{ kind: 'time_of_day', time, day: 'soonest', workingDays: false, whose: 'business' },
    ...more,
  });
  it('at a time of day: today while it is to come, else tomorrow; by whose clock is said', () => {
    expect(due(clock('16:00'))).to.equal('2026-11-27T16:00');
    expect(due(clock('15:00')), 'this very minute is over').to.equal('2026-11-28T15:00');
    expect(due(clock('16:00', { day: 'next_day' }))).to.equal('2026-11-28T16:00');
    expect(due(clock('16:00', { whose: 'lead' }))).to.equal('2026-11-27T21:00');
    expect(due(clock('16:00', { whose: 'lead' }), { leadZone: null })).to.equal('2026-11-27T16:00');
  });
  it('on a working day: over the week-end and a holiday; somebody with holidays all year still gets an answer', () => {
    expect(due(clock('09:00', { workingDays: true }))).to.equal('2026-12-01T09:00');
    expect(due(clock('16:00', { workingDays: true }))).to.equal('2026-11-27T16:00');
    const year = Array.from({ length: 800 }, (_, day) =>
      new Date(at('2026-11-01') + day * 86_400_000).toISOString().slice(0, 10),
    );
    expect(due(clock('09:00', { workingDays: true }), { holidays: year })).to.match(/^2027-11/);
  });
  const date = (more: Partial<Extract<At, { kind: 'on_date' }>> = {}): At => ({
    ...{ kind: 'on_date', field: 'answers.day', side: 'on', span: { amount: 2, unit: 'hours' } },
    ...{ time: null, whose: 'business', ifPassed: 'skip' },
    ...more,
  });
  const of = (day: string) => ({ field: () => day });
  it('on a date: at its own time or the one said; hours before count from its time, days from the time said', () => {
    expect(due(date(), of('2026-12-03T18:30:00Z'))).to.equal('2026-12-03T18:30');
    expect(due(date({ time: '08:00' }), of('2026-12-03T18:30:00Z'))).to.equal('2026-12-03T08:00');
    expect(due(date({ side: 'before', time: '08:00' }), of('2026-12-03T18:30:00Z'))).to.equal('2026-12-03T16:30');
    expect(due(date({ side: 'after' }), of('2026-12-03T18:30:00Z'))).to.equal('2026-12-03T20:30');
    for (const [unit, day] of [
      ['days', '2026-12-01T08:00'],
      ['weeks', '2026-11-19T08:00'],
      ['months', '2026-10-03T07:00'],
    ] as const)
      expect(
        due(
          date({ side: 'before', span: { amount: 2, unit }, time: '08:00', ifPassed: 'at_once' }),
          of('2026-12-03T18:30:00Z'),
        ),
      ).to.equal(day);
  });
  it('is left out without a date, with what is none, and once it has passed where that is wished', () => {
    expect(due(date(), of(' '))).to.equal('no-date: There is no date to count from');
    expect(due(date())).to.equal('no-date: There is no date to count from');
    expect(due(date(), of('s'.repeat(70)))).to.equal(`no-date: “${'s'.repeat(60)}” is not a date`);
    expect(due(date(), of('2026-11-27T14:59:00Z'))).to.equal('passed: The time for it had passed already');
    expect(due(date(), of('2026-11-27T15:00:00Z'))).to.equal('2026-11-27T15:00');
    expect(due(date({ ifPassed: 'at_once' }), of('2026-11-27T14:59:00Z'))).to.equal('2026-11-27T14:59');
  });
  it('a while later, and when the time to wait for something is over', () => {
    expect(due({ kind: 'on_arrival' })).to.equal('2026-11-27T15:00');
    expect(due({ kind: 'later', span: { amount: 90, unit: 'seconds' } })).to.equal('2026-11-27T15:01');
    // The clocks in New York went forward on 8 March 2026: a day later is the same hour there, and 23 hours.
    const before = { previous: at('2026-03-07T15:00:00Z') };
    expect(due({ kind: 'later', span: { amount: 1, unit: 'days' } }, before)).to.equal('2026-03-08T14:00');
  });
});

describe('what becomes of a wait by something that happened', () => {
  const waits = (event: WaitsFor['event'], more: Partial<WaitsFor> = {}): WaitsFor => ({
    ...{ event, words: '', sources: [], tag: '', list: '', stage: '', step: '' },
    ...more,
  });
  const sent = { runId: 'r', stepId: 's' };
  const cases: [string, WaitsFor, Happening, object | null][] = [
    ['any reply', waits('reply'), { event: 'reply', text: 'Hi' }, { it: 'yes', text: 'Hi' }],
    [
      'a reply of these words',
      waits('reply', { words: 'yes' }),
      { event: 'reply', text: 'Yes!' },
      { it: 'yes', text: 'Yes!' },
    ],
    ['a reply of others', waits('reply', { words: 'yes' }), { event: 'reply', text: 'No' }, null],
    ['something else', waits('reply'), { event: 'tag', tag: '' }, null],
    ['its tag', waits('tag', { tag: 't' }), { event: 'tag', tag: 't' }, { it: 'yes' }],
    ['another tag', waits('tag', { tag: 't' }), { event: 'tag', tag: 'u' }, null],
    ['its list', waits('list', { list: 'l' }), { event: 'list', list: 'l' }, { it: 'yes' }],
    ['another list', waits('list', { list: 'l' }), { event: 'list', list: 'm' }, null],
    ['its stage', waits('stage', { stage: 'g' }), { event: 'stage', stage: 'g' }, { it: 'yes' }],
    ['another stage', waits('stage', { stage: 'g' }), { event: 'stage', stage: 'h' }, null],
    ['any link of this run', waits('link'), { event: 'link', ...sent, url: 'u' }, { it: 'yes', url: 'u' }],
    [
      'the link of its step',
      waits('link', { step: 's' }),
      { event: 'link', ...sent, url: 'u' },
      { it: 'yes', url: 'u' },
    ],
    ['the link of another step', waits('link', { step: 'x' }), { event: 'link', ...sent, url: 'u' }, null],
    ['the link of another run', waits('link'), { event: 'link', ...sent, runId: 'q', url: 'u' }, null],
    ['an email opened', waits('opened'), { event: 'opened', ...sent }, { it: 'yes' }],
    ['another run’s email opened', waits('opened'), { event: 'opened', ...sent, runId: 'q' }, null],
    [
      'its form',
      waits('form', { step: 's' }),
      { event: 'form', ...sent, answers: { a: '1' }, text: 'T' },
      { a: '1', it: 'yes', text: 'T' },
    ],
    ['a form no run has sent', waits('form'), { event: 'form', runId: '', stepId: '', answers: {}, text: '' }, null],
    [
      'its answer',
      waits('answer', { step: 's' }),
      { event: 'answer', ...sent, answer: 'A', text: 'T' },
      { it: 'yes', answer: 'A', text: 'T' },
    ],
    [
      'no answer that fitted',
      waits('answer', { step: 's' }),
      { event: 'answer', ...sent, answer: null, text: 'T' },
      { it: 'no', text: 'T' },
    ],
    [
      'an answer to another question',
      waits('answer', { step: 'x' }),
      { event: 'answer', ...sent, answer: 'A', text: 'T' },
      null,
    ],
  ];
  for (const [what, wait, happening, came] of cases)
    it(`${what}: ${came ? 'it goes on' : 'it waits'}`, () => expect(cameOf(wait, 'r', happening)).to.deep.equal(came));
  it('by the source: people once, each order, booking and row by itself', () => {
    expect([samePersonDoes('by_source', true), samePersonDoes('by_source', false)]).to.deep.equal([
      'run_again',
      'update_only',
    ]);
    expect(samePersonDoes('nothing', true)).to.equal('nothing');
  });
});
