import { expect } from 'chai';
import fc from 'fast-check';
import { measureText } from '../../src/core/message/text-segments.ts';
import {
  noticesAsEmail,
  noticesAsText,
  quietUntil,
  summaryOf,
  Telling,
  type Waiting,
} from '../../src/core/notices/telling.ts';
import type { WorkingTime } from '../../src/core/people/working-time.ts';
import { DATE_LANGUAGES, dateLanguageWords } from '../../src/core/words/date-languages.ts';

const LONDON = 'Europe/London';
const at = (iso: string) => Date.parse(iso);
const when = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString());
const NIGHT = { from: '21:00', to: '07:30' };
const day = { from: '09:00', to: '17:00' };
/** Monday to Friday. */
const WEEK: WorkingTime = { week: [day, day, day, day, day, null, null], off: [] };
const NOTHING: Waiting = {
  leads: { total: 0, names: [] },
  conversations: { total: 0, names: [] },
  tasks: { total: 0, titles: [] },
  appointments: [],
  needs: null,
};

describe('when somebody is told nothing', () => {
  it('is their quiet hours, over midnight too, by the business’s clock', () => {
    expect(when(quietUntil(NIGHT, null, at('2026-01-12T20:59:00Z'), LONDON))).to.equal(null);
    expect(when(quietUntil(NIGHT, null, at('2026-01-12T21:00:00Z'), LONDON))).to.equal('2026-01-13T07:30:00.000Z');
    expect(when(quietUntil(NIGHT, null, at('2026-01-13T03:00:00Z'), LONDON))).to.equal('2026-01-13T07:30:00.000Z');
    expect(when(quietUntil(NIGHT, null, at('2026-01-13T07:30:00Z'), LONDON))).to.equal(null);
    // In summer the same hours are others of UTC; the night the clocks go forward is an hour shorter.
    expect(when(quietUntil(NIGHT, null, at('2026-07-12T20:30:00Z'), LONDON))).to.equal('2026-07-13T06:30:00.000Z');
    expect(when(quietUntil(NIGHT, null, at('2026-03-28T22:00:00Z'), LONDON))).to.equal('2026-03-29T06:30:00.000Z');
    expect(when(quietUntil(null, null, at('2026-01-13T03:00:00Z'), LONDON))).to.equal(null);
  });

  it('is every day off, and the night that follows it', () => {
    // Saturday noon: told on Monday, once the quiet hours are over.
    expect(when(quietUntil(NIGHT, WEEK, at('2026-01-17T12:00:00Z'), LONDON))).to.equal('2026-01-19T07:30:00.000Z');
    expect(when(quietUntil(null, WEEK, at('2026-01-17T12:00:00Z'), LONDON))).to.equal('2026-01-19T00:00:00.000Z');
    const away = { ...WEEK, off: [{ from: '2026-01-19', to: '2026-01-21' }] };
    expect(when(quietUntil(NIGHT, away, at('2026-01-16T22:00:00Z'), LONDON))).to.equal('2026-01-22T07:30:00.000Z');
    // Outside their hours on a day they work they are told all the same.
    expect(when(quietUntil(NIGHT, WEEK, at('2026-01-16T19:00:00Z'), LONDON))).to.equal(null);
  });

  it('ends at a moment at which they may be told, whenever that is asked', () => {
    const clock = fc
      .integer({ min: 0, max: 24 * 60 - 1 })
      .map((n) => `${String(Math.floor(n / 60)).padStart(2, '0')}:${String(n % 60).padStart(2, '0')}`);
    fc.assert(
      fc.property(
        fc.integer({ min: at('2026-01-01T00:00:00Z'), max: at('2027-01-01T00:00:00Z') }),
        fc.tuple(clock, clock).filter(([from, to]) => from !== to),
        fc.constantFrom(LONDON, 'America/St_Johns', 'Australia/Lord_Howe', 'UTC'),
        fc.constantFrom(null, WEEK),
        (now, [from, to], zone, working) => {
          const until = quietUntil({ from, to }, working, now, zone);
          if (until === null) return;
          expect(until).to.be.greaterThan(now);
          expect(until - now).to.be.lessThan(5 * 86_400_000);
          expect(quietUntil({ from, to }, working, until, zone)).to.equal(null);
        },
      ),
    );
  });

  it('is not said by hours that begin and end together, or are none', () => {
    const said = (quiet: unknown) => Telling.safeParse({ email: [], text: [], quiet, summaryAt: null }).success;
    expect([
      said({ from: '22:00', to: '22:00' }),
      said({ from: '25:00', to: '07:00' }),
      said({ from: '22:00', to: '' }),
      said(NIGHT),
    ]).to.deep.equal([false, false, false, true]);
  });
});

describe('what somebody is told by message', () => {
  const notice = { title: 'New lead: Ada', body: 'Trial lesson form', url: '/leads/1', tag: 'leads' };
  const many = { title: '3 people wrote', body: 'Bo, Cy and 1 more', url: '/conversations', tag: 'conversations' };

  it('is one text with one address, and one email with all', () => {
    expect(noticesAsText('Wrenfield', [notice], 'https://pine.example/at/w')).to.equal(
      'Wrenfield: New lead: Ada, Trial lesson form https://pine.example/at/w/leads/1',
    );
    expect(noticesAsText('Wrenfield', [notice, many], 'https://pine.example/at/w')).to.equal(
      'Wrenfield: New lead: Ada; 3 people wrote https://pine.example/at/w/',
    );
    const email = noticesAsEmail('Wrenfield', [notice, many], 'https://pine.example/at/w');
    expect(email.subject).to.equal('Wrenfield: New lead: Ada; 3 people wrote');
    expect(email.text)
      .to.include('https://pine.example/at/w/leads/1')
      .and.to.include('Bo, Cy and 1 more')
      .and.to.include('/settings/you');
  });

  it('a name without end makes no text of more than a few parts, and keeps its address', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 2000 }), (words) => {
        const text = noticesAsText(
          'Wrenfield',
          [{ ...notice, title: words, body: words }],
          'https://pine.example/at/w',
        );
        expect(text.endsWith(' https://pine.example/at/w/leads/1')).to.equal(true);
        expect(measureText(text).parts).to.be.at.most(30);
        if (/^[\x20-\x7e]*$/.test(words)) expect(measureText(text).parts).to.be.at.most(6);
      }),
    );
  });

  it('in the morning is what waits, and nothing when nothing does', () => {
    expect(summaryOf('Wrenfield', NOTHING, 'https://pine.example/at/w')).to.equal(null);
    expect(summaryOf('Wrenfield', { ...NOTHING, needs: 0 }, 'https://pine.example/at/w')).to.equal(null);
    const full = summaryOf(
      'Wrenfield',
      {
        leads: { total: 7, names: ['Ada', 'Bo'] },
        conversations: { total: 1, names: ['Cy'] },
        tasks: { total: 2, titles: ['Ring Ada', 'Send the prices'] },
        appointments: ['09:30 Trial lesson, Ada Hale'],
        needs: 1,
      },
      'https://pine.example/at/w',
    )!;
    expect(full.subject).to.equal(
      'Wrenfield, this morning: 1 appointment today, 2 tasks due, 1 person waits for an answer, 7 new leads, 1 thing needs somebody',
    );
    expect(full.text)
      .to.include('\n- 09:30 Trial lesson, Ada Hale')
      .and.to.include('7 new leads: Ada, Bo and 5 more')
      .and.to.include('Ring Ada, Send the prices');
  });
});

describe('languages of dates', () => {
  it('are those the engine knows, each called in itself', () => {
    for (const locale of DATE_LANGUAGES) {
      expect(Intl.DateTimeFormat.supportedLocalesOf(locale), locale).to.deep.equal([locale]);
      expect(Intl.DateTimeFormat(locale).resolvedOptions().locale.slice(0, 2)).to.equal(locale.slice(0, 2));
    }
    // CLDR 44 and later write these so.
    expect(dateLanguageWords('de-DE')).to.match(/^Deutsch \(Deutschland\): Sa\., 3\. Jan\. 2026, 1\.250,50$/);
    expect(dateLanguageWords('en-US')).to.include('Jan 3, 2026, 1,250.50');
  });
});
