import { expect } from 'chai';
import fc from 'fast-check';
import { Condition, isBlank, TESTS, type Test, type TestName, testsOf } from '../../src/core/condition/condition.ts';
import { combine, evaluate, factKey, factOf, type Known } from '../../src/core/condition/evaluate.ts';
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

describe('questions at their edges', () => {
  const cases: [TestName, string, string, boolean][] = [
    ['is_not', 'Piano', ' piano ', false],
    ['contains_not', 'ian', 'Piano', false],
    ['contains_not', 'cello', 'Piano', true],
    ['contains_not', '', 'Piano', true],
    ['starts', '', 'Piano', false],
    ['starts', 'no', 'Piano', false],
    ['ends', '', 'Piano', false],
    ['ends', 'pi', 'Piano', false],
    ['is', 'a b', 'a  \t b', true],
    ['one_of', 'Piano\nCello', 'cello', true],
    ['one_of', 'Piano; ;Cello', '', false],
    ['none_of', 'Piano\nCello', 'cello', false],
    ['none_of', 'Piano\nCello', 'Harp', true],
    ['none_of', '', 'Harp', true],
    ['filled', '', ' ', false],
    ['filled', '', 'x', true],
    ['empty', '', ' ', true],
    ['empty', '', 'x', false],
    ['greater', '5', '5', false],
    ['greater', '5', '5.1', true],
    ['greater', '5', '', false],
    ['greater', 'many', '5', false],
    ['less', '5', '5', false],
    ['less', '5', '4.9', true],
    ['less', '5', 'few', false],
    ['before', '2026-11-25', '2026-11-25', false],
    ['before', '2026-11-26', '2026-11-25', true],
    ['after', '2026-11-25', '2026-11-25', false],
    ['after', 'today', '2026-11-26', true],
    ['after', 'Today', '2026-11-25T23:00:00Z', false],
    ['before', 'today', '2026-11-24', true],
    ['before', 'soon', '2026-11-24', false],
    ['before', '2026-11-25T12:00:00Z', '2026-11-25T11:00:00Z', true],
    ['before', '2026-11-25', '2026-11-25T11:00:00Z', false],
    ['in_last', '1', '2026-11-25T12:00:00Z', true],
    ['in_last', '1', '2026-11-24T12:00:00Z', true],
    ['in_last', '1', '2026-11-24T11:59:59Z', false],
    ['in_last', '1', '2026-11-25T12:00:01Z', false],
    ['in_last', 'few', '2026-11-25T12:00:00Z', false],
    ['in_last', '1', 'soon', false],
    ['valid_mobile', '', '07400 123456', true],
    ['valid_mobile', '', '0121 496 0000', false],
    ['valid_mobile', '', 'none', false],
  ];
  for (const [name, value, found, expected] of cases)
    it(`${name} ${value}: “${found}” ${expected ? 'holds' : 'does not hold'}`, () =>
      expect(holds(test(name, value), found)).to.equal(expected));

  it('between takes both of its ends', () => {
    const between = test('between', '3', { to: '9' });
    expect(['2.9', '3', '9', '9.1', ''].map((found) => holds(between, found))).to.deep.equal([
      ...[false, true, true, false, false],
    ]);
  });
  it('to the letter where that is asked', () => {
    expect(holds(test('is', 'Piano', { exact: true }), 'piano')).to.equal(false);
    expect(holds(test('contains', 'P', { exact: true }), 'Piano')).to.equal(true);
    expect(holds(test('one_of', 'Piano', { exact: true }), 'piano')).to.equal(false);
  });
  it('about the person: tags, lists, consent; nothing known of them is no', () => {
    const of = { tags: ['warm'], memberOf: ['news'], consent: { text: 'given', email: 'withdrawn' } };
    const person = (name: TestName, value: string) => holds(test(name, value, { field: '' }), undefined, of);
    expect([person('has_tag', 'warm'), person('has_tag', 'cold')]).to.deep.equal([true, false]);
    expect([person('has_no_tag', 'warm'), person('has_no_tag', 'cold')]).to.deep.equal([false, true]);
    expect([person('on_list', 'news'), person('on_list', 'fair')]).to.deep.equal([true, false]);
    expect([person('not_on_list', 'news'), person('not_on_list', 'fair')]).to.deep.equal([false, true]);
    expect(['text', 'email', 'chat'].map((channel) => person('agreed', channel))).to.deep.equal([true, false, false]);
    expect(['text', 'email', 'chat'].map((channel) => person('not_agreed', channel))).to.deep.equal([
      false,
      true,
      true,
    ]);
  });
  it('what only the database knows is asked under one name, and is no until it has answered', () => {
    const row = test('in_sheet', 'tab/c1');
    expect(factOf(row, '  Ada  VENN ')).to.deep.equal({ kind: 'in_sheet', column: 'tab/c1', value: 'ada venn' });
    expect(factOf(row, ' ')).to.equal(null);
    expect(factOf(test('is', 'x'), 'x')).to.equal(null);
    const mail = test('throw_away');
    expect(factOf(mail, 'Ada@Trash.Example')).to.deep.equal({ kind: 'throw_away', domain: 'trash.example' });
    expect(factOf(mail, 'no address')).to.equal(null);
    const facts = { 'in_sheet:tab/c1:ada': true, 'throw_away:trash.example': true };
    expect(holds(row, 'Ada', { facts })).to.equal(true);
    expect(holds({ ...row, test: 'not_in_sheet' }, 'Ada', { facts })).to.equal(false);
    expect(holds({ ...row, test: 'not_in_sheet' }, 'Bo', { facts })).to.equal(true);
    expect([holds(row, 'Ada'), holds(row, '', { facts }), holds(row, 'Bo', { facts })]).to.deep.equal([
      false,
      false,
      false,
    ]);
    expect([holds(mail, 'a@trash.example', { facts }), holds(mail, 'a@b.example', { facts })]).to.deep.equal([
      true,
      false,
    ]);
  });
  it('groups of answers given elsewhere are put together as those of values are', () => {
    const [yes, no] = [test('is', 'yes'), test('is', 'no')];
    const put = (condition: Condition) => combine(condition, (asked) => asked.value === 'yes');
    expect([put(yes), put(no), put({ all: [] }), put({ any: [] })]).to.deep.equal([true, false, true, true]);
    expect([put({ all: [yes, yes] }), put({ all: [yes, no] })]).to.deep.equal([true, false]);
    expect([put({ any: [no, yes] }), put({ any: [no, no] })]).to.deep.equal([true, false]);
    expect([holds({ any: [] }, 'x'), holds({ all: [{ any: [] }] }, 'x')]).to.deep.equal([true, true]);
  });
});
