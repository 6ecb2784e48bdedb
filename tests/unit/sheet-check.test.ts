import { expect } from 'chai';
import type { Condition, Test } from '../../src/core/condition/condition.ts';
import type { At } from '../../src/core/workflow/at.ts';
import type { Definition, Moment } from '../../src/core/workflow/definition.ts';
import { momentFindings, type SheetCheckInput } from '../../src/core/workflow/moment-findings.ts';
import { toCheck } from '../../src/core/workflow/to-check.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { catalogueOf, freshStep, momentOf, nadia, sheetOf, stepOf, toTheLead } from '../stage/sheets.ts';

const input: SheetCheckInput = {
  catalogue: catalogueOf({
    tags: [{ id: 'warm', name: 'Warm' }],
    lists: [
      {
        ...{ id: 'news', name: 'Newsletter', optIn: 'single', asked: 0, confirmed: 0, stopped: '' },
        fields: [{ key: 'level', label: 'Level' }],
      },
    ],
    stages: [{ id: 'trial', name: 'Trial' }],
    sources: [{ id: 'form', name: 'Form' }],
    tabs: [{ id: 'tab', name: 'Enquiries', columns: [{ id: 'c1', name: 'Instrument' }] }],
    colleagues: [{ id: 'tomas', name: 'Tomas', email: 't@wrenfield.example', phone: '' }],
  }),
  sample: nadia(),
  consentAsked: true,
  sources: [{ id: 'form', name: 'Form', state: 'live' }],
  triedSinceChange: true,
};
const asked = (name: Test['test'], value: string, field = 'answers.instrument'): Test => ({
  ...{ field, test: name, value, to: '', exact: false },
});
const never = () => false;

describe('what is wrong with the moments of a sheet', () => {
  const of = (moments: Moment[], more: Partial<SheetCheckInput> = {}, comesLater: () => boolean = never) =>
    momentFindings(sheetOf(moments), { ...input, ...more }, comesLater).map(
      ({ weight, text, place }) => `${weight}, ${place.stepId ?? ('momentId' in place ? place.momentId : '')}: ${text}`,
    );
  const waits = (more: Partial<Extract<At, { kind: 'event' }>>) =>
    momentOf('m2', {
      at: {
        ...{ kind: 'event', event: 'reply', words: '', sources: [], tag: '', list: '', stage: '', step: '' },
        ...{ within: { amount: 2, unit: 'days' } },
        ...more,
      },
    });
  const onDate = (field: string) =>
    momentOf('m1', {
      at: {
        ...{ kind: 'on_date', field, side: 'on', span: { amount: 1, unit: 'days' } },
        ...{ time: null, whose: 'lead', ifPassed: 'skip' },
      },
    });
  const question = momentOf('m1', toTheLead(freshStep('ask', 'q', { message: 'Which?', saveAs: 'answers.which' })));
  const hello = momentOf('m1', toTheLead(freshStep('text', 'hello', { message: 'Hello' })));

  it('a date is chosen, and the sample has it unless it is found out on the way', () => {
    expect(of([onDate('')])).to.deep.equal(['must, m1: A moment counts from a date: choose the field.']);
    expect(of([onDate('answers.day')])).to.deep.equal([
      'look, m1: The sample lead has no "Day", so a moment would be left out.',
    ]);
    expect(of([onDate('answers.instrument'), onDate('found.day'), onDate('happened.day')])).to.deep.equal([]);
    expect(of([onDate('answers.day')], { sample: null })).to.deep.equal([]);
  });

  const good: Partial<Extract<At, { kind: 'event' }>>[] = [
    {},
    { event: 'tag', tag: 'warm' },
    { event: 'list', list: 'news' },
    { event: 'stage', stage: 'trial' },
    { event: 'arrival' },
    { event: 'arrival', sources: ['form'] },
    { event: 'form' },
    { event: 'link', step: 'hello' },
    { event: 'opened', step: 'hello' },
  ];
  for (const at of good) it(`nothing: ${JSON.stringify(at)}`, () => expect(of([hello, waits(at)])).to.deep.equal([]));

  const bad: [Partial<Extract<At, { kind: 'event' }>>, string][] = [
    [{ event: 'tag', tag: 'x' }, 'A moment waits for a tag: choose it.'],
    [{ event: 'list', list: '' }, 'A moment waits until they join a list: choose it.'],
    [{ event: 'stage', stage: 'x' }, 'A moment waits for a stage of their deal: choose it.'],
    [{ event: 'arrival', sources: ['form', 'x'] }, 'A moment waits for a source that is gone.'],
    [{ event: 'answer', step: 'hello' }, 'A moment waits for an answer: choose the question.'],
    [{ event: 'link', step: 'x' }, 'A moment waits for a message that is gone: choose it.'],
  ];
  for (const [at, text] of bad) it(text, () => expect(of([hello, waits(at)])).to.deep.equal([`must, m2: ${text}`]));

  it('what is waited for has gone out in a moment above', () => {
    expect(of([question, waits({ event: 'answer', step: 'q' })])).to.deep.equal([]);
    expect(of([waits({ event: 'answer', step: 'q' }), question])[0]).to.match(/asked only in it or below it/);
    expect(of([waits({ event: 'opened', step: 'hello' }), hello])[0]).to.match(/goes out only in it or below it/);
  });

  const conditions: [string, Condition, string[]][] = [
    ['a finished one', asked('is', 'Piano'), []],
    ['one without a value', asked('is', ' '), ['A condition is not finished: Instrument is ….']],
    ['one that takes none', asked('filled', ''), []],
    ['a tag that is gone', asked('has_tag', 'x', ''), ['A condition asks for a tag that is gone.']],
    ['a tag that is there', asked('has_tag', 'warm', ''), []],
    ['a list that is gone', asked('on_list', 'x', ''), ['A condition asks for a list that is gone.']],
    ['a list that is there', asked('on_list', 'news', ''), []],
    ['a column that is gone', asked('in_sheet', 'tab/x'), ['A condition looks in a column that is gone.']],
    ['a column that is there', asked('in_sheet', 'tab/c1'), []],
    ['one about no field', asked('is', 'x', ''), ['A condition asks about no field.']],
    ['one about what is no field', asked('is', 'x', 'nonsense'), ['A condition asks about no field.']],
    [
      'one about a field the sample lacks',
      asked('is', 'x', 'answers.city'),
      ['A condition asks for "City", which the sample lead lacks.'],
    ],
  ];
  for (const [what, condition, texts] of conditions)
    it(`a condition: ${what}`, () =>
      expect(of([momentOf('m1', { onlyIf: condition })]).map((one) => one.slice(one.indexOf(':') + 2))).to.deep.equal(
        texts,
      ));

  it('a field that comes later is not asked of the sample; nothing is without one', () => {
    const later = [momentOf('m1', { onlyIf: asked('is', 'x', 'answers.city') })];
    expect(of(later, {}, () => true)).to.deep.equal([]);
    expect(of(later, { sample: null })).to.deep.equal([]);
  });

  it('a case asks something; a moment need not; a guard is told at its step', () => {
    const lanes = toTheLead().lanes;
    const cases = [{ id: 'k', name: 'K', when: { all: [] }, lanes }];
    expect(of([momentOf('m1', { cases })])).to.deep.equal(['must, m1: A case has no condition yet.']);
    expect(of([momentOf('m1', { onlyIf: { all: [] } })])).to.deep.equal([]);
    const guarded = freshStep('text', 's', { message: 'x' }, { onlyIf: asked('has_tag', 'x', '') });
    expect(of([momentOf('m1', toTheLead(guarded))])).to.deep.equal([
      'must, s: A condition asks for a tag that is gone.',
    ]);
  });

  it('whoever is told of failures is still here', () => {
    const told = (colleague: string) =>
      momentFindings(sheetOf([], { tell: { colleague, every: 'each' } }), input, never).map(({ text }) => text);
    expect(told('tomas')).to.deep.equal([]);
    expect(told('x')).to.deep.equal(['The person to be told of failures is no longer here.']);
  });
});

describe('what is to check on a whole sheet', () => {
  const codes = (sheet: Definition, more: Partial<SheetCheckInput> = {}) =>
    toCheck(sheet, stepKinds, { ...input, ...more }).map(({ weight, code }) => `${weight} ${code}`);
  const texts = (message: string, more: Partial<SheetCheckInput> = {}, moments: Moment[] = []) =>
    toCheck(
      sheetOf([...moments, momentOf('m9', toTheLead(freshStep('text', 's', { message, needsConsent: true })))], {}, [
        'form',
      ]),
      stepKinds,
      { ...input, ...more },
    ).map(({ text }) => text);
  const sends = sheetOf(
    [momentOf('m1', toTheLead(freshStep('text', 's', { message: 'Hello', needsConsent: true })))],
    {},
    ['form'],
  );

  it('a finished sheet has nothing', () => expect(codes(sends)).to.deep.equal([]));
  it('no source, one that is paused, none caught yet, nothing that happens, not tried', () => {
    expect(codes({ ...sends, sources: [] })).to.deep.equal(['must no-source']);
    expect(codes(sends, { sources: [{ id: 'form', name: 'Form', state: 'paused' }] })).to.deep.equal([
      'look source-paused',
    ]);
    expect(codes(sends, { sample: null })).to.deep.equal(['look no-sample']);
    expect(codes(sheetOf([momentOf('m1')], {}, ['form']))).to.deep.equal(['must nothing-happens']);
    expect(codes(sends, { triedSinceChange: false })).to.deep.equal(['look not-tried']);
    const off = sheetOf([momentOf('m1', toTheLead(freshStep('text', 's', {}, { on: false })))], {}, ['form']);
    expect(codes(off), 'what is off is not looked at').to.deep.equal(['must nothing-happens']);
    const prepares = momentOf('m1', { first: [freshStep('tag', 't', { tag: 'warm' })] });
    expect(codes(sheetOf([prepares], {}, ['form']))).to.deep.equal(['must nothing-happens']);
  });
  it('a kind this copy does not know, and settings that cannot be read, are told at their step', () => {
    const odd = (step: ReturnType<typeof stepOf>) =>
      toCheck(sheetOf([momentOf('m1', toTheLead(step))], {}, ['form']), stepKinds, input);
    expect(odd(stepOf('horn', 'h', {}))[0]).to.deep.include({
      text: 'This copy of Pine Bell does not know steps of the kind "horn".',
      place: { stepId: 'h', field: null },
    });
    const [unread] = odd(stepOf('text', 't', { message: 7 }));
    expect(unread).to.deep.include({ weight: 'must', code: 'settings', place: { stepId: 't', field: 'message' } });
  });

  const fields: [string, string | null][] = [
    ['{{ lead.first_name }} {{ business.name }} {{ owner.email }} {{ where.campaign }}', null],
    ['{{ answers.instrument }} {{ happened.text }} {{ item.price }}', null],
    ['{{ member["news.level"] }}', null],
    ['{{ lead.nickname }}', 'there is no field “lead.nickname”, so nothing would stand in its place.'],
    [
      '{{ lead.firstname }}',
      'there is no field “lead.firstname”, so nothing would stand in its place. Did you mean Lead: First name?',
    ],
    ['{{ business.town }}', 'there is no field “business.town”, so nothing would stand in its place.'],
    ['{{ member["news.shoe"] }}', 'there is no field “member["news.shoe"]”, so nothing would stand in its place.'],
    ['{{ record.since }}', 'there is no field “record.since”, so nothing would stand in its place.'],
    ['{{ found.row }}', 'no step of this sheet finds “Row”, so it would be empty.'],
    ['{{ answers.city }}', 'the sample lead has no field "City", so it would be left empty.'],
    [
      '{{ answers.instruments }}',
      'the sample lead has no field "Instruments", so it would be left empty. Did you mean Answers of the source: Instrument?',
    ],
    ['{{ nobody }}', 'there is no field “nobody”, so nothing would stand in its place.'],
  ];
  for (const [message, told] of fields)
    it(`${message}: ${told ?? 'there is such a field'}`, () =>
      expect(texts(message)).to.deep.equal(told === null ? [] : [`Text the lead: ${told}`]));

  it('a field is told once however often it stands there, and nothing is asked of a sample that is not there', () => {
    expect(texts('{{ lead.nickname }} {{ lead.nickname }}')).to.have.length(1);
    expect(texts('{{ answers.city }}', { sample: null })).to.deep.equal([
      'No sample lead yet: fill in the form once to catch one.',
    ]);
  });

  it('what a step gives is a field for those after it', () => {
    const asks = momentOf(
      'm1',
      toTheLead(
        freshStep('ask', 'q', { message: 'Where?', saveAs: 'answers.city', kind: 'anything', needsConsent: true }),
      ),
    );
    expect(texts('{{ answers.city }}', {}, [asks])).to.deep.equal([]);
  });
});
