import { expect } from 'chai';
import fc from 'fast-check';
import { answersInWords, ChatForm, newChatForm, partedAnswers } from '../../src/core/form/chat-form.ts';
import { checkAnswers } from '../../src/core/form/check-answers.ts';
import { settleWordings } from '../../src/core/form/form-page.ts';
import { visibleReply } from '../../src/core/mail/visible-reply.ts';
import { makeFormToken, readFormToken } from '../../src/core/signing/form-token.ts';
import { consentScope, EMPTY_CARD } from '../../src/core/source/lead-card.ts';
import { nextMorning } from '../../src/core/time/zone.ts';
import { cameOf } from '../../src/core/workflow/awaited.ts';
import { allConsents } from '../../src/core/workflow/run-context.ts';
import { listensTo } from '../../src/sources/chat-message/listening.ts';
import { mayNotWrite } from '../../src/steps/may-write.ts';
import { windowOpen } from '../../src/steps/plan-chat.ts';

const KEY = Buffer.alloc(32, 7);
const HOUR = 3_600_000;

describe('the token of a form', () => {
  it('says which message asked, and nothing else can be made or changed without the key', () => {
    fc.assert(
      fc.property(fc.uuid(), fc.nat(42), fc.nat(63), (id, at, by) => {
        const token = makeFormToken(KEY, id);
        expect(token).to.match(/^[\w-]{43}$/);
        expect(readFormToken(KEY, token)).to.equal(id);
        expect(readFormToken(Buffer.alloc(32, 8), token), 'another key').to.equal(null);
        const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_';
        const changed = token.slice(0, at) + letters[by] + token.slice(at + 1);
        if (changed !== token) expect(readFormToken(KEY, changed)).to.equal(null);
      }),
    );
  });
  it('whatever comes instead is none of ours, and nothing throws', () => {
    for (const token of ['', 'x', '=', `${makeFormToken(KEY, crypto.randomUUID())} `, '🎻'.repeat(20)])
      expect(readFormToken(KEY, token)).to.equal(null);
    fc.assert(fc.property(fc.string(), (token) => readFormToken(KEY, token) === null));
  });
});

describe('a form in chat', () => {
  const form = ChatForm.parse({
    ...newChatForm('Hello', 'Wrenfield'),
    screens: [
      newChatForm('Hello', 'Wrenfield').screens[0],
      {
        fields: [
          { key: 'day', label: 'Which day', kind: 'date', required: true },
          { key: 'level', label: 'Level', kind: 'choice', required: false, choices: ['New', 'Some years'] },
          { key: 'news', label: 'Newsletter', kind: 'tick', required: false },
        ],
      },
    ],
  });
  it('is refused with what to do: no question, two of one key, a choice of nothing, a consent for nothing', () => {
    const wrong = (patch: object) => ChatForm.safeParse({ ...form, ...patch }).error?.issues[0]?.message;
    const field = form.screens[0]!.fields[0]!;
    expect(wrong({ screens: [] })).to.equal('The form needs at least one screen');
    expect(wrong({ screens: [{ title: '', fields: [] }] })).to.equal('The form needs at least one question');
    expect(wrong({ screens: [{ title: '', fields: [field, field] }] })).to.equal('Two questions have the same key');
    expect(wrong({ screens: [{ title: '', fields: [{ ...field, kind: 'choice' }] }] })).to.match(/choose from/);
    expect(wrong({ screens: [{ title: '', fields: [{ ...field, kind: 'long' }] }] })).to.match(/cannot ask/);
    expect(wrong({ consent: { ...form.consent, channels: [] } })).to.match(/Say what the consent is for/);
  });
  it('answers are checked again: an email, a date that exists, one of the choices; a tick is Yes or nothing', () => {
    const good = { first_name: 'Ada', email: 'ada@example.org', day: '2026-02-28', level: 'New', news: 'true' };
    const checked = checkAnswers(form, good, 'GB');
    expect(checked).to.deep.equal({ ok: true, answers: { ...good, last_name: '', news: 'Yes' } });
    for (const [key, value] of [
      ['email', 'ada@'],
      ['day', '2026-02-30'],
      ['level', 'Twice'],
      ['first_name', ''],
    ] as const) {
      const wrong = checkAnswers(form, { ...good, [key]: value }, 'GB');
      expect(wrong.ok ? [] : Object.keys(wrong.problems)).to.deep.equal([key]);
    }
    expect(partedAnswers({ first_name: 'Ada', email: '', level: 'New' })).to.deep.equal({
      person: { first_name: 'Ada' },
      rest: { level: 'New' },
    });
    expect(answersInWords(form, { first_name: 'Ada', level: '', news: 'Yes' })).to.equal(
      'First name: Ada\nNewsletter: Yes',
    );
  });
  it('a wording keeps its version until its words change', () => {
    const once = settleWordings(null, form, '2026-11-26T00:00:00Z');
    const same = settleWordings(once, once, '2026-11-27T00:00:00Z');
    const other = settleWordings(
      same,
      { ...same, consent: { ...same.consent, text: 'Other words' } },
      '2026-11-28T00:00:00Z',
    );
    expect(same.consent.wordings).to.deep.equal(once.consent.wordings);
    expect(other.consent.wordings.map((wording) => [wording.version, wording.since.slice(8, 10)])).to.deep.equal([
      [1, '26'],
      [2, '28'],
    ]);
  });
  it('wakes the moment of its own run and step, with the answers', () => {
    const waits = { event: 'form', words: '', sources: [], tag: '', list: '', stage: '', step: 'c' } as const;
    const filled = { event: 'form', runId: 'r', stepId: 'c', answers: { level: 'New' }, text: 'Level: New' } as const;
    expect(cameOf({ ...waits, sources: [] }, 'r', filled)).to.deep.equal({
      level: 'New',
      it: 'yes',
      text: 'Level: New',
    });
    expect(cameOf({ ...waits, sources: [] }, 'other', filled)).to.equal(null);
    expect(cameOf({ ...waits, sources: [], step: 'd' }, 'r', filled)).to.equal(null);
  });
});

describe('what may be written, when, and what is listened to', () => {
  it('no consent is needed for an answer; news need a yes to news; a no counts whatever a step says', () => {
    const known = (consent: object, marketing: object = consent) => ({
      consent: allConsents(consent),
      marketing: allConsents(marketing),
    });
    const why = (context: ReturnType<typeof known>, settings: Parameters<typeof mayNotWrite>[2]) =>
      mayNotWrite(context, 'chat', settings)?.text ?? 'goes';
    const answer = { needsConsent: false };
    const news = { needsConsent: false, purpose: 'marketing' as const };
    expect(why(known({}), answer)).to.equal('goes');
    expect(why(known({}), { needsConsent: true })).to.equal('Stopped: no consent to chat messages');
    expect(why(known({ chat: 'given' }, {}), news)).to.equal('Stopped: no consent to news and offers by chat message');
    expect(why(known({ chat: 'given' }, { chat: 'withdrawn' }), answer)).to.equal('goes');
    expect(why(known({ chat: 'withdrawn' }, { chat: 'given' }), news)).to.equal(
      'Stopped: asked for no more chat messages',
    );
    expect(why(known({ text: 'withdrawn' }), answer), 'another channel').to.equal('goes');
  });
  it('a card says what its yes is about; a card from before says nothing and means all, by text and email', () => {
    expect(consentScope(EMPTY_CARD)).to.deep.equal({ purpose: null, channels: [] });
    const consent = {
      kind: 'asked_elsewhere',
      note: 'On paper',
      wording: 'You may write to me about lessons and news.',
    } as const;
    expect(consentScope({ consent })).to.deep.equal({ purpose: null, channels: ['text', 'email'] });
    expect(consentScope({ consent: { ...consent, about: 'service', channels: ['chat'] } })).to.deep.equal({
      purpose: 'service',
      channels: ['chat'],
    });
  });
  it('the reply window is open for 24 hours to the millisecond', () => {
    expect(windowOpen(null, 0)).to.equal(false);
    expect(windowOpen(0, 24 * HOUR - 1)).to.equal(true);
    expect(windowOpen(0, 24 * HOUR)).to.equal(false);
  });
  it('the next morning is at nine by the clock of the place, also over the nights the clocks change', () => {
    const at = (day: string, zone: string) => new Date(nextMorning(Date.parse(day), '09:00', zone)).toISOString();
    expect(at('2026-10-24T20:00:00Z', 'Europe/London')).to.equal('2026-10-25T09:00:00.000Z');
    expect(at('2026-03-28T20:00:00Z', 'Europe/London')).to.equal('2026-03-29T08:00:00.000Z');
    expect(at('2026-11-26T23:30:00Z', 'Asia/Tokyo')).to.equal('2026-11-28T00:00:00.000Z');
  });
  it('a source takes what it listens to: any word, the first, certain words, a button, a form', () => {
    const settings = { connectionId: 'x', when: 'any' as const, words: '', form: '' };
    const said = { kind: 'message' as const, text: 'A cello, please', first: false, formId: null };
    expect(listensTo(settings, said)).to.equal(true);
    expect(listensTo(settings, { ...said, kind: 'form', formId: 'f' })).to.equal(false);
    expect(listensTo({ ...settings, when: 'first' }, said)).to.equal(false);
    expect(listensTo({ ...settings, when: 'words', words: 'cello\nviola' }, said)).to.equal(true);
    expect(listensTo({ ...settings, when: 'words', words: 'viola' }, said)).to.equal(false);
    expect(listensTo({ ...settings, when: 'button' }, said)).to.equal(false);
    expect(
      listensTo({ ...settings, when: 'button', words: 'Call me' }, { ...said, kind: 'button', text: 'Call me' }),
    ).to.equal(true);
    expect(listensTo({ ...settings, when: 'form', form: 'f' }, { ...said, kind: 'form', formId: 'f' })).to.equal(true);
    expect(listensTo({ ...settings, when: 'form', form: 'f' }, { ...said, kind: 'form', formId: 'g' })).to.equal(false);
  });
});

describe('what somebody wrote in answer to a mail', () => {
  const quoted =
    'On Thu, 26 Nov 2026 at 10:00, Wrenfield <hello@wrenfield.example> wrote:\n> Does Tuesday suit?\n> Oona';
  it('is told from what is quoted below it, in several languages', () => {
    expect(visibleReply(`Yes please\n\n${quoted}`)).to.equal('Yes please');
    expect(visibleReply(`Yes please\r\n\r\n${quoted.replaceAll('\n', '\r\n')}`)).to.equal('Yes please');
    expect(
      visibleReply('Oui, mardi\n\nLe 26 novembre 2026 à 10:00, Wrenfield <a@b.example> a écrit :\n\n> Mardi ?'),
    ).to.equal('Oui, mardi');
  });
  it('one that only quotes is kept as it is, and a hostile one takes no time', () => {
    expect(visibleReply(quoted)).to.equal(quoted);
    // Runs of empty lines cost the parser the square of their length where they are not taken out first.
    for (const nasty of [
      '\n'.repeat(200_000),
      `On Mon,${'\n \t'.repeat(50_000)} wrote`,
      '> '.repeat(100_000),
      'On '.repeat(100_000),
    ])
      expect(visibleReply(nasty).length).to.be.at.most(10_000);
  });
});
