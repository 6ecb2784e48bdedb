import { expect } from 'chai';
import fc from 'fast-check';
import { Condition, isBlank, TESTS, type Test, type TestName, testsOf } from '../../src/core/condition/condition.ts';
import { evaluate, factKey, factOf, type Known } from '../../src/core/condition/evaluate.ts';
import { comparedWords, conditionWords, type Names } from '../../src/core/condition/words.ts';
import { readNumber } from '../../src/core/fields/read-number.ts';
import { saysOneOf } from '../../src/core/message/says-one-of.ts';

const known = (fields: Record<string, string>, more: Partial<Known> = {}): Known => ({
  value: (reference) => (Object.hasOwn(fields, reference) ? fields[reference]! : null),
  country: 'GB',
  timeZone: 'Europe/London',
  now: Date.parse('2026-11-25T12:00:00Z'),
  tags: [],
  memberOf: [],
  consent: {},
  facts: {},
  ...more,
});
const test = (name: TestName, value = '', more: Partial<Test> = {}): Test => ({
  field: 'answers.x',
  test: name,
  value,
  to: '',
  exact: false,
  ...more,
});
const holds = (condition: Condition, found?: string, more: Partial<Known> = {}) =>
  evaluate(condition, known(found === undefined ? {} : { 'answers.x': found }, more)).holds;

describe('questions', () => {
  const cases: [TestName, string, string, boolean][] = [
    ['is', 'Piano', '  piano ', true],
    ['is', 'Piano', 'pianola', false],
    ['is', 'CAFÉ', 'cafe\u0301', true],
    ['is_not', 'Piano', 'Violin', true],
    ['contains', 'ian', 'PIANO', true],
    ['contains', '', 'anything', false],
    ['starts', 'pi', 'Piano', true],
    ['ends', 'NO', 'Piano', true],
    ['one_of', 'Violin\nPiano', 'piano', true],
    ['one_of', 'Violin; Cello', 'cello', true],
    ['none_of', 'Violin\nPiano', 'Drums', true],
    ['filled', '', ' ', false],
    ['empty', '', ' ', true],
    ['greater', '100', '£1,250.00', true],
    ['greater', '100', 'lots', false],
    ['less', '10', '9.5', true],
    ['before', '2026-12-01', '30 November 2026', true],
    ['after', 'today', '26/11/2026', true],
    ['after', 'today', '25/11/2026', false],
    ['in_last', '7', '2026-11-20', true],
    ['in_last', '7', '2026-11-10', false],
    ['in_last', '7', '2026-12-01', false],
    ['valid_email', '', 'nadia@example.com', true],
    ['valid_email', '', 'nadia@', false],
    ['valid_mobile', '', '07700 900123', true],
    ['valid_mobile', '', '020 7946 0018', false],
  ];
  for (const [name, asked, found, answer] of cases)
    it(`“${found}” ${TESTS[name].words} ${asked.replaceAll('\n', ', ')}: ${answer}`, () =>
      expect(holds(test(name, asked), found)).to.equal(answer));

  it('case and outer spaces count only when asked', () => {
    expect(holds(test('is', 'Piano', { exact: true }), 'piano')).to.equal(false);
    expect(holds(test('is', 'Piano', { exact: true }), 'Piano')).to.equal(true);
  });
  it('a missing field is empty: it lets nothing out by mistake, and says that it is missing', () => {
    for (const name of ['is', 'contains', 'starts', 'one_of', 'greater', 'before', 'filled', 'valid_email'] as const)
      expect(holds(test(name, 'x')), name).to.equal(false);
    expect(holds(test('empty'))).to.equal(true);
    const names: Names = { field: () => 'Level', tag: () => '', list: () => '', column: () => '' };
    const [one] = evaluate(test('is', 'A'), known({})).compared;
    expect(comparedWords(one!, names)).to.equal('Level is A: nothing is known of it');
  });
  it('between takes both ends in', () => {
    for (const [found, answer] of [
      ['9', false],
      ['10', true],
      ['20', true],
      ['21', false],
    ] as const)
      expect(holds(test('between', '10', { to: '20' }), found)).to.equal(answer);
  });
  it('asks about tags, consent, and what stands in a sheet', () => {
    expect(holds(test('has_tag', 't', { field: '' }), undefined, { tags: ['t'] })).to.equal(true);
    expect(holds(test('agreed', 'text', { field: '' }), undefined, { consent: { text: 'given' } })).to.equal(true);
    expect(holds(test('not_agreed', 'text', { field: '' }), undefined, { consent: { text: 'withdrawn' } })).to.equal(
      true,
    );
    const there = test('in_sheet', 'tab/column');
    expect(holds(there, 'A@b.example', { facts: { [factKey(factOf(there, ' a@B.example')!)]: true } })).to.equal(true);
    expect(holds(there, 'other')).to.equal(false);
  });
});

describe('conditions', () => {
  it('all and any, one inside another', () => {
    const piano = test('is', 'Piano');
    const nested: Condition = { all: [{ any: [piano, test('is', 'Organ')] }, test('filled')] };
    expect(holds(nested, 'organ')).to.equal(true);
    expect(holds(nested, 'drums')).to.equal(false);
    expect(holds({ all: [] }, 'x')).to.equal(true);
    expect(holds({ any: [] }, 'x')).to.equal(true);
    expect(isBlank({ all: [{ any: [] }] })).to.equal(true);
  });
  it('are read aloud without doubt about what goes together', () => {
    const names: Names = {
      field: (r) => (r === 'answers.x' ? 'Instrument' : r),
      tag: () => 'Warm',
      list: () => '',
      column: () => '',
    };
    const condition: Condition = {
      all: [{ any: [test('is', 'Piano'), test('is', 'Organ')] }, test('has_tag', 't', { field: '' })],
    };
    expect(conditionWords(condition, names)).to.equal(
      '(Instrument is Piano or Instrument is Organ) and the lead has the tag Warm',
    );
  });
  it('all means every, any means some, whatever is asked of whatever', () => {
    const single = fc.record({
      field: fc.constantFrom('answers.x', 'answers.missing', ''),
      test: fc.constantFrom(...(Object.keys(TESTS) as TestName[])),
      value: fc.oneof(fc.string(), fc.constantFrom('1', 'today', '2026-01-01')),
      to: fc.string(),
      exact: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(single, { minLength: 1, maxLength: 5 }), fc.string(), (tests, found) => {
        const world = known({ 'answers.x': found });
        const each = tests.map((test) => evaluate(test, world).holds);
        expect(evaluate({ all: tests }, world).holds).to.equal(each.every(Boolean));
        expect(evaluate({ any: tests }, world).holds).to.equal(each.some(Boolean));
        expect(evaluate({ all: tests }, world).compared.map((compared) => compared.holds)).to.deep.equal(each);
        expect(Condition.parse({ any: tests })).to.deep.equal({ any: tests });
        expect(testsOf({ all: [{ any: tests }] })).to.deep.equal(tests);
      }),
    );
  });
  it('too deep a nest is refused, with a reason', () => {
    let deep: Condition = test('filled');
    for (let i = 0; i < 6; i++) deep = { all: [deep] };
    expect(Condition.safeParse(deep).error?.issues[0]?.message).to.match(/5 deep/);
  });
});

describe('numbers as people type them', () => {
  for (const [typed, value] of [
    ['1,250.00', 1250],
    ['1.250,00', 1250],
    ['€ 1 250', 1250],
    ['1’250.50', 1250.5],
    ['-3,5', -3.5],
    ['12%', 12],
    ['1,250', 1250],
    ['1.5', 1.5],
    ['1,2,3', null],
    ['about 5', null],
    ['', null],
  ] as const)
    it(`“${typed}” is ${value}`, () => expect(readNumber(typed)).to.equal(value));
});

describe('what a reply says', () => {
  it('whole words, whatever their case and the punctuation around them', () => {
    expect(saysOneOf('Yes, please!', 'yes\nok')).to.equal(true);
    expect(saysOneOf('I know', 'no')).to.equal(false);
    expect(saysOneOf('call me back', 'call me')).to.equal(true);
    expect(saysOneOf('¡SÍ!', 'sí')).to.equal(true);
    expect(saysOneOf('anything', '')).to.equal(true);
    expect(saysOneOf('', 'yes')).to.equal(false);
  });
});
