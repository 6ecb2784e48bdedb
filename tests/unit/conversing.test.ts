import { expect } from 'chai';
import fc from 'fast-check';
import { checkAnswer } from '../../src/core/message/check-answer.ts';
import { asCounted, countedLinks, TOKEN_LENGTH } from '../../src/core/message/counted-links.ts';
import { shortToken } from '../../src/core/signing/short-token.ts';
import { atNames } from '../../src/core/workflow/at-names.ts';
import { atWords } from '../../src/core/workflow/at-words.ts';
import { cameOf, type WaitsFor } from '../../src/core/workflow/awaited.ts';
import type { EmailMessage, TextMessage } from '../../src/core/workflow/plan.ts';
import { readAloud } from '../../src/core/workflow/read-aloud.ts';
import { toCheck } from '../../src/core/workflow/to-check.ts';
import { forAnybody } from '../../src/islands/conversations/for-anybody.ts';
import { planStep, turnOf } from '../../src/steps/plan-step.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { rehearse } from '../../src/steps/rehearse.ts';
import { catalogueOf, momentOf, nadia, sheetOf, stepOf } from '../stage/sheets.ts';

const DAYS = { kind: 'choice' as const, choices: ['Monday', 'Tuesday', 'Tuesday evening', '2 pm'] };

describe('the answer to a question', () => {
  for (const [written, understood] of [
    ['1', 'Monday'],
    ['2.', 'Tuesday'],
    [' monday ', 'Monday'],
    ['Monday please!', 'Monday'],
    ['mon', 'Monday'],
    ['2 pm', '2 pm'],
    ['Monday or Tuesday evening', null],
    ['5', null],
    ['', null],
    ['Sunday', null],
  ] as const)
    it(`“${written}” of Monday, Tuesday, Tuesday evening, 2 pm is ${understood ?? 'none of them'}`, () => {
      expect(checkAnswer(DAYS, written, 'GB')).to.equal(understood);
    });
  for (const [kind, written, understood] of [
    ['yes_no', 'Yes please', 'Yes'],
    ['yes_no', 'no, thank you', 'No'],
    ['yes_no', 'yes and no', null],
    ['yes_no', 'perhaps', null],
    ['number', 'about 7', null],
    ['number', '1,200.50', '1200.5'],
    ['date', '3rd April 2027', '2027-04-03'],
    ['date', 'next week', null],
    ['email', 'Ada@Example.COM', 'ada@example.com'],
    ['email', 'ada at example', null],
    ['phone', '07700 900142', '+447700900142'],
    ['anything', '  hello ', 'hello'],
  ] as const)
    it(`“${written}” as ${kind} is ${understood ?? 'no answer'}`, () => {
      const read = checkAnswer({ kind, choices: [] }, written, 'GB');
      expect(kind === 'email' ? read?.toLowerCase() : read, written).to.equal(
        understood ?? (kind === 'email' ? undefined : null),
      );
    });
  it('a number in the list always means that line, whatever the lines say', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.constantFrom('red', 'green', 'blue', 'grey', 'pink'), { minLength: 2 }),
        fc.nat(8),
        (choices, at) => {
          expect(checkAnswer({ kind: 'choice', choices }, String(at + 1), 'GB')).to.equal(choices[at] ?? null);
        },
      ),
    );
  });
});

describe('links that are counted', () => {
  const base = 'https://bell.example/l/';
  const text = (words: string): TextMessage => ({
    channel: 'text',
    audience: 'lead',
    to: '+447700900142',
    from: 'W',
    text: words,
    parts: 1,
  });
  const count = (words: string) => countedLinks(text(words), base, 'https://bell.example', (n) => `t${n}`);
  it('keeps what ends a sentence out of the address, and gives the same address the same token', () => {
    const { message, links } = count(
      'See https://a.example/x?y=1. (https://b.example/), again https://a.example/x?y=1!',
    );
    expect(message.text).to.equal(`See ${base}t0. (${base}t1), again ${base}t0!`);
    expect(links).to.deep.equal([
      { token: 't0', url: 'https://a.example/x?y=1' },
      { token: 't1', url: 'https://b.example/' },
    ]);
  });
  it('leaves our own addresses and plain words alone', () => {
    const words = 'https://bell.example/leave/1 and a.example and mailto:x@a.example';
    expect(count(words)).to.deep.equal({ message: text(words), links: [] });
  });
  it('an email has one token in both of its parts, with & as HTML writes it', () => {
    const email: EmailMessage = {
      channel: 'email',
      audience: 'lead',
      to: 'a@b.example',
      toName: '',
      from: { name: '', address: 'o@w.example' },
      replyTo: null,
      subject: '',
      text: 'Go https://a.example/?a=1&b=2',
      html: '<p><a class="x" href="https://a.example/?a=1&amp;b=2">Go</a> <a href="mailto:x@y.example">x</a></p>',
    };
    const { message, links } = countedLinks(email, base, 'https://bell.example', (n) => `t${n}`);
    expect([message.text, message.html]).to.deep.equal([
      `Go ${base}t0`,
      `<p><a class="x" href="${base}t0">Go</a> <a href="mailto:x@y.example">x</a></p>`,
    ]);
    expect(links).to.deep.equal([{ token: 't0', url: 'https://a.example/?a=1&b=2' }]);
  });
  it('a text is measured as long as it will be', () => {
    const words = 'See https://a.example/a/very/long/address/that/goes/on?and=on and https://b.example';
    const token = shortToken(new Uint8Array(32), 'x');
    expect(token)
      .to.match(/^[0-9A-Za-z]{9}$/)
      .and.have.length(TOKEN_LENGTH);
    const real = countedLinks(text(words), base, 'https://bell.example', () => token).message.text;
    expect(asCounted(words, base)).to.have.length(real.length);
    expect(asCounted(words, null)).to.equal(words);
  });
});

describe('what a moment waits for', () => {
  const waits = (more: Partial<WaitsFor>): WaitsFor => ({
    event: 'reply',
    words: '',
    sources: [],
    tag: '',
    list: '',
    stage: '',
    step: '',
    ...more,
  });
  it('comes by what belongs to it only', () => {
    const said = { event: 'reply', text: 'Yes!' } as const;
    expect(cameOf(waits({ words: 'yes' }), 'r', said)).to.deep.equal({ it: 'yes', text: 'Yes!' });
    expect(cameOf(waits({ words: 'no' }), 'r', said)).to.equal(null);
    expect(cameOf(waits({ event: 'tag', tag: 'a' }), 'r', { event: 'tag', tag: 'b' })).to.equal(null);
    const link = { event: 'link', runId: 'r', stepId: 's', url: 'https://a.example' } as const;
    expect(cameOf(waits({ event: 'link' }), 'r', link)).to.deep.equal({ it: 'yes', url: 'https://a.example' });
    expect(cameOf(waits({ event: 'link', step: 'other' }), 'r', link)).to.equal(null);
    expect(cameOf(waits({ event: 'link' }), 'another run', link)).to.equal(null);
    const answer = { event: 'answer', runId: 'r', stepId: 's', answer: null, text: 'eh' } as const;
    expect(cameOf(waits({ event: 'answer', step: 's' }), 'r', answer)).to.deep.equal({ it: 'no', text: 'eh' });
  });
});

const ask = stepOf('ask', 'q', {
  ...(stepKinds.get('ask')!.blank() as object),
  message: 'Which day?',
  choices: 'Monday\nTuesday',
  saveAs: 'answers.day',
});
const wait = momentOf('b', {
  at: {
    kind: 'event',
    event: 'answer',
    words: '',
    sources: [],
    tag: '',
    list: '',
    stage: '',
    step: 'q',
    within: { amount: 1, unit: 'days' },
  },
  cases: [
    {
      id: 'c',
      name: '',
      when: { field: 'answers.day', test: 'is', value: 'Monday', to: '', exact: false },
      lanes: {
        lead: [stepOf('text', 't', { message: 'On {{ answers.day }}', needsConsent: true })],
        record: [],
        team: [],
      },
    },
  ],
});

describe('a question on the sheet', () => {
  const sheet = sheetOf([momentOf('a', { lanes: { lead: [ask], record: [], team: [] } }), wait], {}, ['s']);
  const catalogue = catalogueOf({ sources: [{ id: 's', name: 'Form' }] });
  const assume = (happens: boolean) => ({ now: 0, happens, justCameIn: true, zoneOf: () => null });
  it('is rehearsed with an answer that fits, and without one', () => {
    const [, answered] = rehearse(sheet, nadia(), catalogue, assume(true)).moments;
    expect([answered!.caseId, answered!.steps[0]!.plan]).to.deep.include('c');
    expect(answered!.steps[0]!.plan).to.nested.include({ 'message.text': 'On Monday' });
    expect(rehearse(sheet, nadia(), catalogue, assume(false)).moments[1]!.caseId).to.equal(null);
    // Who is not asked is not waited for.
    const silent = rehearse(
      sheet,
      nadia({ consent: { text: 'unknown', email: 'given', chat: 'unknown' } }),
      catalogue,
      assume(true),
    );
    expect([silent.moments[1]!.at, silent.moments[1]!.caseId]).to.deep.equal([0, null]);
  });
  it('is read aloud, and its answer is a field that later steps may use', () => {
    const words = readAloud(sheet, stepKinds, catalogue).flatMap((part) => part.sentences);
    expect(words).to.include('On arrival, we ask them “Which day?”.');
    expect(atWords(wait.at, atNames(sheet, stepKinds, catalogue))).to.equal(
      'When they answer “Which day?”, or after 1 day',
    );
    const input = {
      catalogue,
      sample: nadia(),
      consentAsked: true,
      triedSinceChange: true,
      sources: [{ id: 's', name: 'Form', state: 'live' as const }],
    };
    expect(toCheck(sheet, stepKinds, input)).to.deep.equal([]);
    const gone = { ...sheet, moments: [momentOf('a', { lanes: { lead: [], record: [], team: [] } }), wait] };
    expect(toCheck(gone, stepKinds, input).map((finding) => finding.text)).to.include(
      'A moment waits for an answer: choose the question.',
    );
  });
});

describe('a step for each item of a list', () => {
  const note = (each: string) => stepOf('note', 'n', { text: '{{ item.name }} for {{ lead.first_name }}' }, { each });
  it('is one plan with every item in it; an empty list is nothing to do', () => {
    const context = nadia({ lists: { lines: [{ name: 'Rosin' }, { name: 'Strings' }], none: [] } });
    const plan = planStep(note('lines'), context, catalogueOf(), 0);
    expect(plan).to.deep.include({ does: 'record', words: 'Note: Rosin for Nadia; Note: Strings for Nadia' });
    expect(plan.does === 'record' && (plan.what as { each: unknown[] }).each).to.have.length(2);
    expect(planStep(note('none'), context, catalogueOf(), 0).does).to.equal('nothing');
    expect(planStep(note(''), context, catalogueOf(), 0)).to.deep.include({ words: 'Note: for Nadia' });
  });
});

describe('whose turn it is', () => {
  const catalogue = catalogueOf({ colleagues: [{ id: 'a', name: 'Ada', email: '', phone: '' }] });
  const assign = (more: object) =>
    stepOf('assign', 's', { ...(stepKinds.get('assign')!.blank() as object), among: ['a'], ...more });
  it('is asked for only where a lead needs somebody: a kept owner or a named one takes no turn away', () => {
    const owned = nadia({ owner: { id: 'a', name: 'Ada', email: '' } });
    expect(turnOf(assign({}), nadia(), catalogue, 0)).to.deep.equal(['a']);
    expect(turnOf(assign({}), owned, catalogue, 0)).to.equal(null);
    expect(turnOf(assign({ keep: false }), owned, catalogue, 0)).to.deep.equal(['a']);
    const byField = { by: 'field', field: 'answers.instrument', owners: [{ value: 'piano', colleague: 'a' }] };
    expect(turnOf(assign(byField), nadia(), catalogue, 0)).to.equal(null);
    expect(turnOf(assign(byField), nadia({ answers: { instrument: 'Oboe' } }), catalogue, 0)).to.deep.equal(['a']);
  });
});

describe('an answer kept for next time', () => {
  it('names whoever gets it, where the name stands as a word of its own', () => {
    const field = '{{ lead.first_name }}';
    for (const [text, name, kept] of [
      ['Hi Ed, edited it? Edited, said Ed.', 'Ed', `Hi ${field}, edited it? Edited, said ${field}.`],
      ['Zoë’s lesson, and Zoëlle’s', 'Zoë', `${field}’s lesson, and Zoëlle’s`],
      ['שלום שרה, שרהלה', 'שרה', `שלום ${field}, שרהלה`],
      ['A+ for A+', 'A+', `${field} for ${field}`],
      ['Nobody is named', '', 'Nobody is named'],
    ] as const)
      expect(forAnybody(text, name), text).to.equal(kept);
  });
});
