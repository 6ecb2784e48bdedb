import { expect } from 'chai';
import type { Test } from '../../src/core/condition/condition.ts';
import { comparedWords, conditionWords, testWords } from '../../src/core/condition/words.ts';
import type { At } from '../../src/core/workflow/at.ts';
import { atNames } from '../../src/core/workflow/at-names.ts';
import { atWords } from '../../src/core/workflow/at-words.ts';
import { placedSteps } from '../../src/core/workflow/definition.ts';
import { capital, readAloud, rulesAloud } from '../../src/core/workflow/read-aloud.ts';
import { placedConditions } from '../../src/core/workflow/references.ts';
import { catalogueNames, memberLabels } from '../../src/core/workflow/step-kind.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { catalogueOf, freshStep, momentOf, rulesOf, sheetOf, stepOf, toTheLead } from '../stage/sheets.ts';

const catalogue = catalogueOf({
  tags: [{ id: 'warm', name: 'Warm' }],
  lists: [
    {
      ...{ id: 'news', name: 'Newsletter', optIn: 'double', asked: 0, confirmed: 0, stopped: '' },
      fields: [{ key: 'level', label: 'Level' }],
    },
  ],
  stages: [{ id: 'trial', name: 'Trial booked' }],
  sources: [
    { id: 'form', name: 'Trial lesson form' },
    { id: 'fair', name: 'School fair' },
  ],
  tabs: [{ id: 'tab', name: 'Enquiries', columns: [{ id: 'c1', name: 'Instrument' }] }],
});
const test = (name: Test['test'], value = '', more: Partial<Test> = {}): Test => ({
  ...{ field: 'answers.instrument', test: name, value, to: '', exact: false },
  ...more,
});

describe('a moment in words', () => {
  const sheet = sheetOf([
    momentOf('m1', { ...toTheLead(freshStep('text', 'hello', { message: 'Hello {{ lead.first_name }}' })) }),
  ]);
  const names = atNames(sheet, stepKinds, catalogue);
  const event = (more: Partial<Extract<At, { kind: 'event' }>>): At => ({
    ...{ kind: 'event', event: 'reply', words: '', sources: [], tag: '', list: '', stage: '', step: '' },
    ...{ within: { amount: 2, unit: 'days' } },
    ...more,
  });
  const clock = (more: Partial<Extract<At, { kind: 'time_of_day' }>>): At => ({
    ...{ kind: 'time_of_day', time: '09:00', day: 'soonest', workingDays: false, whose: 'lead' },
    ...more,
  });
  const date = (more: Partial<Extract<At, { kind: 'on_date' }>>): At => ({
    ...{ kind: 'on_date', field: 'answers.lesson_date', side: 'on', span: { amount: 1, unit: 'days' } },
    ...{ time: null, whose: 'lead', ifPassed: 'skip' },
    ...more,
  });
  const cases: [At, string][] = [
    [{ kind: 'on_arrival' }, 'On arrival'],
    [{ kind: 'later', span: { amount: 10, unit: 'minutes' } }, '10 minutes later'],
    [{ kind: 'later', span: { amount: 1, unit: 'hours' } }, '1 hour later'],
    [clock({}), 'At 09:00'],
    [clock({ workingDays: true }), 'At 09:00 on a working day'],
    [clock({ day: 'next_day' }), 'Next morning, 09:00'],
    [clock({ day: 'next_day', time: '12:00' }), 'Next day, 12:00'],
    [clock({ day: 'next_day', workingDays: true }), 'Next working day, 09:00'],
    [date({}), 'On Lesson date'],
    [date({ time: '08:30' }), 'On Lesson date, 08:30'],
    [date({ side: 'before' }), '1 day before Lesson date'],
    [date({ side: 'after', span: { amount: 2, unit: 'weeks' }, time: '10:00' }), '2 weeks after Lesson date, 10:00'],
    [event({}), 'When they reply, or after 2 days'],
    [event({ words: ' yes \n\n ok' }), 'When they reply yes or ok, or after 2 days'],
    [event({ event: 'arrival' }), 'When they come in again, or after 2 days'],
    [
      event({ event: 'arrival', sources: ['form', 'fair'] }),
      'When they come in by Trial lesson form or School fair, or after 2 days',
    ],
    [event({ event: 'arrival', sources: ['x'] }), 'When they come in by a source that is gone, or after 2 days'],
    [event({ event: 'tag', tag: 'warm' }), 'When they get the tag Warm, or after 2 days'],
    [event({ event: 'tag', tag: 'x' }), 'When they get the tag that is gone, or after 2 days'],
    [event({ event: 'list', list: 'news' }), 'When they join Newsletter, or after 2 days'],
    [event({ event: 'list', list: 'x' }), 'When they join a list that is gone, or after 2 days'],
    [event({ event: 'stage', stage: 'trial' }), 'When their deal comes to Trial booked, or after 2 days'],
    [event({ event: 'stage', stage: 'x' }), 'When their deal comes to a stage that is gone, or after 2 days'],
    [event({ event: 'answer', step: 'hello' }), 'When they answer “Hello First name”, or after 2 days'],
    [event({ event: 'answer', step: 'x' }), 'When they answer a step that is gone, or after 2 days'],
    [event({ event: 'form' }), 'When they fill in a form, or after 2 days'],
    [event({ event: 'form', step: 'hello' }), 'When they fill in the form of “Hello First name”, or after 2 days'],
    [event({ event: 'link' }), 'When they click a link, or after 2 days'],
    [event({ event: 'link', step: 'hello' }), 'When they click a link in “Hello First name”, or after 2 days'],
    [event({ event: 'opened' }), 'When they open an email, or after 2 days'],
    [event({ event: 'opened', step: 'hello' }), 'When they open “Hello First name”, or after 2 days'],
  ];
  for (const [at, words] of cases) it(words, () => expect(atWords(at, names)).to.equal(words));

  it('cuts a long message short, and names the fields of the source as the source does', () => {
    const long = sheetOf([
      momentOf('m1', toTheLead(freshStep('text', 'long', { message: `${'word '.repeat(20)}end` }))),
    ]);
    const said = atNames(long, stepKinds, catalogue).step('long');
    expect(said).to.equal(`“${'word '.repeat(9)}word…”`);
    expect(
      atNames(sheet, stepKinds, catalogue, new Map([['instrument', 'Which one?']])).field('answers.instrument'),
    ).to.equal('Which one?');
  });

  it('does not know a step of no known kind, or with settings it cannot read', () => {
    const odd = sheetOf([momentOf('m1', toTheLead(stepOf('nothing', 'a', {}), stepOf('text', 'b', { message: 7 })))]);
    const { step } = atNames(odd, stepKinds, catalogue);
    expect([step('a'), step('b')]).to.deep.equal(['a step that is gone', 'a step that is gone']);
  });
});

describe('a condition in words', () => {
  const names = catalogueNames(catalogue, memberLabels(catalogue.lists));
  const cases: [Test, string][] = [
    [test('is', 'Piano'), 'Instrument is Piano'],
    [test('is'), 'Instrument is …'],
    [test('is_not', 'Piano'), 'Instrument is not Piano'],
    [test('contains', 'ian'), 'Instrument contains ian'],
    [test('one_of', ' Piano\n;Cello '), 'Instrument is one of Piano, Cello'],
    [test('none_of', 'Piano'), 'Instrument is none of Piano'],
    [test('filled'), 'Instrument is filled'],
    [test('between', '3', { to: '9' }), 'Instrument is between 3 and 9'],
    [test('in_last', '1'), 'Instrument is in the last 1 day'],
    [test('in_last', '30'), 'Instrument is in the last 30 days'],
    [test('has_tag', 'warm', { field: '' }), 'the lead has the tag Warm'],
    [test('has_no_tag', 'x', { field: '' }), 'the lead does not have the tag that is gone'],
    [test('on_list', 'news', { field: '' }), 'the lead is on the list Newsletter'],
    [test('not_on_list', 'x', { field: '' }), 'the lead is not on the list a list that is gone'],
    [test('agreed', 'text', { field: '' }), 'the lead agreed to texts'],
    [test('not_agreed', 'email', { field: '' }), 'the lead did not agree to emails'],
    [test('agreed', 'pigeon', { field: '' }), 'the lead agreed to pigeon'],
    [test('in_sheet', 'tab/c1'), 'Instrument is in the sheet Instrument of Enquiries'],
    [test('in_sheet', 'tab/c2'), 'Instrument is in the sheet a column that is gone'],
    [test('not_in_sheet', 'x/c1'), 'Instrument is not in the sheet a column that is gone'],
    [test('is', 'yes', { field: 'happened.it' }), 'it happened'],
    [test('is', 'no', { field: 'happened.it' }), 'nothing happened'],
    [test('is', 'C', { field: 'member["news.level"]' }), 'Newsletter: Level is C'],
    [test('is', 'C', { field: 'what is this' }), 'what is this is C'],
  ];
  for (const [asked, words] of cases) it(words, () => expect(testWords(asked, names)).to.equal(words));

  it('groups stand in brackets only inside others; of one part none is seen; an empty one lets all through', () => {
    const [a, b, c] = [test('is', 'A'), test('is', 'B'), test('filled')];
    expect(conditionWords({ any: [a, { all: [b, c] }] }, names)).to.equal(
      'Instrument is A or (Instrument is B and Instrument is filled)',
    );
    expect(conditionWords({ all: [a, { any: [b] }] }, names)).to.equal('Instrument is A and Instrument is B');
    expect(conditionWords({ all: [] }, names)).to.equal('always');
  });

  it('says what was found where it did not hold', () => {
    const why = (asked: Test, found: string | null) => comparedWords({ test: asked, holds: false, found }, names);
    expect(why(test('is', 'Piano'), 'Violin')).to.equal('Instrument is Piano: it is “Violin”');
    expect(why(test('is', 'Piano'), ' ')).to.equal('Instrument is Piano: it is empty');
    expect(why(test('is', 'Piano'), null)).to.equal('Instrument is Piano: nothing is known of it');
    expect(why(test('is', 'Piano', { field: 'found.row' }), null)).to.equal('Row is Piano: it could not be found out');
    expect(why(test('is', 'A'), 'x'.repeat(90))).to.equal(`Instrument is A: it is “${'x'.repeat(80)}”`);
    expect(why(test('has_tag', 'warm', { field: '' }), null)).to.equal('the lead has the tag Warm');
    expect(why(test('is', 'yes', { field: 'happened.it' }), 'no')).to.equal('it happened');
  });
});

describe('a sheet read aloud', () => {
  const text = (id: string, message: string, more: object = {}) => freshStep('text', id, { message }, more);
  const aloud = (...moments: Parameters<typeof sheetOf>[0]) =>
    readAloud(sheetOf(moments, {}, ['form', 'fair']), stepKinds, catalogue).map(({ sentences }) => sentences);

  it('begins with where leads come from and what is done with somebody known', () => {
    expect(aloud()[0]).to.deep.equal([
      'Leads come in by Trial lesson form and School fair.',
      'Somebody known who comes in again is updated and not written to again.',
    ]);
    expect(readAloud(sheetOf([]), stepKinds, catalogue)[0]!.sentences[0]).to.equal('No source is chosen yet.');
    expect(readAloud(sheetOf([momentOf('m1')]), stepKinds, catalogue).map(({ momentId }) => momentId)).to.deep.equal([
      null,
      'm1',
    ]);
  });

  it('each lane is a clause; what is off or unknown is not read; nothing is said where nothing happens', () => {
    const [, said, off] = aloud(
      momentOf('m1', {
        lanes: {
          lead: [text('a', 'One'), text('b', 'Two', { on: false }), stepOf('nothing', 'x', {})],
          record: [freshStep('tag', 'c', { tag: 'warm' })],
          team: [],
        },
      }),
      momentOf('m2', toTheLead(text('d', 'Three', { on: false }))),
    );
    expect(said).to.deep.equal(['On arrival, we text them; on record we give them the tag Warm.']);
    expect(off).to.deep.equal(['On arrival, nothing happens.']);
  });

  it('First comes first, with what it is for; guards and what is done instead stand behind their step', () => {
    const guard = { onlyIf: test('filled'), ifFails: { after: 'other_channel' } } as const;
    const [, both, alone] = aloud(
      momentOf('m1', {
        onlyIf: test('is', 'Piano'),
        first: [freshStep('tag', 'f', { tag: 'warm' })],
        ...toTheLead(text('a', 'Hi', guard as object), freshStep('email', 'e', { subject: 'S', message: 'M' })),
      }),
      momentOf('m2', { first: [freshStep('tag', 'g', { tag: 'warm' })] }),
    );
    expect(both).to.deep.equal([
      'On arrival, only if Instrument is Piano, first we give them the tag Warm.',
      'Then we text them (only when Instrument is filled; by email if it is refused) and email them.',
    ]);
    expect(alone).to.deep.equal(['On arrival, first we give them the tag Warm.']);
  });

  it('cases are read one by one, and otherwise last', () => {
    const eachCase = (id: string, value: string, ...lead: ReturnType<typeof text>[]) => ({
      ...{ id, name: id, when: test('is', value) },
      lanes: toTheLead(...lead).lanes,
    });
    const [, said, prepared] = aloud(
      momentOf('m1', { cases: [eachCase('a', 'Piano', text('t', 'Hi')), eachCase('b', 'Cello')] }),
      momentOf('m2', {
        first: [freshStep('tag', 'f', { tag: 'warm' })],
        cases: [eachCase('c', 'Piano')],
        ...toTheLead(text('u', 'Hi')),
      }),
    );
    expect(said).to.deep.equal([
      'On arrival, one of these.',
      'If Instrument is Piano, we text them.',
      'If Instrument is Cello, nothing happens.',
      'Otherwise nothing happens.',
    ]);
    expect(prepared).to.deep.equal([
      'On arrival, first we give them the tag Warm.',
      'If Instrument is Piano, nothing happens.',
      'Otherwise we text them.',
    ]);
  });

  it('the rules are sentences of their own', () => {
    const rules = (more: Parameters<typeof rulesOf>[0]) =>
      rulesAloud(rulesOf(more), { tag: (id) => `#${id}`, clock: (time) => time });
    expect(rules({ samePerson: 'by_source' })[0]).to.match(/^Each order, booking and row counts by itself/);
    expect(rules({ samePerson: 'nothing' })[0]).to.equal('Somebody known who comes in again starts nothing.');
    expect(rules({ samePerson: 'run_again_after', againAfterDays: 9 })[0]).to.equal(
      'Somebody known goes through again once 9 days have passed.',
    );
    expect(rules({ samePerson: 'run_again' })[0]).to.equal('Somebody known who comes in again goes through again.');
    const hours = { text: { from: '08:00', to: '21:00' }, email: null, chat: null };
    expect(rules({ hours, holdsLane: true }).slice(1)).to.deep.equal([
      'Texts go out from 08:00 to 21:00, by the lead’s clock.',
      'Whoever has just come in by their own doing is answered at once on arrival, whatever the hour; news and offers wait.',
      'What stands below a message that is held waits with it.',
    ]);
    expect(rules({ hours, answerAtOnce: false })).to.have.length(2);
    expect(rules({ holdsLane: true })).to.have.length(1);
    expect(rules({ endsWhen: ['reply', 'stop', 'booked', 'bought'], endsTags: ['t'] })[1]).to.equal(
      'It ends early when they reply, they ask for no more, they book, they buy or they get the tag #t.',
    );
    expect(rules({ endsWhen: ['stop'] })[1]).to.equal('It ends early when they ask for no more.');
    expect(capital('')).to.equal('');
  });
});

describe('the conditions of a sheet', () => {
  it('are found wherever they stand, with where that is', () => {
    const sheet = sheetOf([
      momentOf('m1', {
        onlyIf: test('is', 'A'),
        ...toTheLead(freshStep('text', 's', { message: 'x' }, { onlyIf: test('is', 'C') })),
      }),
      momentOf('m2', { cases: [{ id: 'k', name: 'K', when: test('is', 'B'), lanes: toTheLead().lanes }] }),
    ]);
    expect(placedConditions(sheet).map(({ condition, ...at }) => [(condition as Test).value, at])).to.deep.equal([
      ['A', { momentId: 'm1', caseId: null, stepId: null }],
      ['B', { momentId: 'm2', caseId: 'k', stepId: null }],
      ['C', { momentId: 'm1', caseId: null, stepId: 's' }],
    ]);
    expect(placedSteps(sheet).map(({ step, place }) => [step.id, place])).to.deep.equal([['s', 'lead']]);
  });
});
