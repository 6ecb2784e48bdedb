import { expect } from 'chai';
import fc from 'fast-check';
import { likelyDomain } from '../../src/core/message/likely-domain.ts';
import { TIDYING_NAMES, type TidyingName, tidyingOf } from '../../src/core/tidying/tidyings.ts';
import { planStep } from '../../src/steps/plan-step.ts';
import { catalogueOf, nadia, stepOf } from '../stage/sheets.ts';

const input = { from: '', to: '', n: 1, country: 'GB' };
const apply = (name: TidyingName, value: string, more: Partial<typeof input> = {}) =>
  tidyingOf(name).apply(value, { ...input, ...more });

describe('tidyings', () => {
  const cases: [TidyingName, string, Partial<typeof input>, string, string | null][] = [
    ['trim', '  Ada   Venn ', {}, 'Ada Venn', null],
    ['name', "o'brien", {}, "O'Brien", null],
    ['replace', 'Piano lesson', { from: 'LESSON', to: 'hour' }, 'Piano hour', null],
    ['replace', 'a.b', { from: '.', to: '$&' }, 'a$&b', null],
    ['cut', 'Café👍🏽!', { n: 5 }, 'Café👍🏽', null],
    ['pick', 'Piano, Violin, Cello', { n: 2 }, 'Violin', null],
    ['pick', 'a|b', { n: -1, from: '|' }, 'b', null],
    ['pick', 'Piano', { n: 3 }, '', 'there are not 3 in the list'],
    ['number', '£1,250.00', {}, '1250', null],
    ['number', 'many', {}, 'many', 'this is not a number'],
    ['money', '1.250,5 €', {}, '1250.50', null],
    ['date', '3rd April 2026', {}, '2026-04-03', null],
    ['date', '3rd April 2026 at 10:30', {}, '2026-04-03T10:30', null],
    ['date', '2026-11-27T16:00:00+01:00', {}, '2026-11-27T16:00:00+01:00', null],
    ['day', '2026-11-27T16:00:00+01:00', {}, '2026-11-27', null],
    ['date', 'soon', {}, 'soon', 'this is not a date'],
    ['phone', '07700 900123', {}, '+447700900123', null],
    ['email', ' Ada@Example.ORG ', {}, 'ada@example.org', null],
    ['address', 'Wrenfield.example/Lessons?utm_source=ad&id=3', {}, 'https://wrenfield.example/Lessons?id=3', null],
    [
      'address',
      'https://wrenfield.example/?page=2&form=trial&ad=7&constructor=x&utm_campaign=a&UTM_Source=b&xclid=c&click_id=d',
      {},
      'https://wrenfield.example/?page=2&form=trial&ad=7&constructor=x',
      null,
    ],
    ['address', 'wrenfield.example/', {}, 'https://wrenfield.example', null],
    ['address', 'javascript:alert(1)', {}, 'javascript:alert(1)', 'this is not a web address'],
    ['default', ' ', { to: 'not said' }, 'not said', null],
    ['default', 'Piano', { to: 'not said' }, 'Piano', null],
  ];
  for (const [name, typed, more, value, problem] of cases)
    it(`${tidyingOf(name).label}: “${typed}” becomes “${value}”`, () =>
      expect(apply(name, typed, more)).to.deep.equal({ value, problem }));

  it('an empty value stays empty without a word', () => {
    for (const name of TIDYING_NAMES)
      if (name !== 'default') expect(apply(name, ''), name).to.deep.equal({ value: '', problem: null });
  });
  it('whatever is typed, none throws, and done twice is the same as done once', () => {
    const same = TIDYING_NAMES.filter((name) => !['replace', 'cut', 'pick'].includes(name));
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.string({ unit: 'grapheme' })), fc.constantFrom(...same), (typed, name) => {
        const once = apply(name, typed, { to: 'x' });
        if (once.problem === null) expect(apply(name, once.value, { to: 'x' }).value).to.equal(once.value);
        else expect(once.value).to.equal(typed);
      }),
    );
  });
  it('knows the slip of a finger in a common mail domain, and leaves the rest alone', () => {
    expect(likelyDomain('gmial.com')).to.equal('gmail.com');
    expect(likelyDomain('hotmal.com')).to.equal('hotmail.com');
    expect(likelyDomain('gmail.com')).to.equal(null);
    expect(likelyDomain('wrenfield.example')).to.equal(null);
  });
});

describe('the step that tidies', () => {
  const plan = (more: object[], person = {}) =>
    planStep(
      stepOf('tidy', 't', { names: false, email: false, phone: false, more }),
      nadia({
        person: { first_name: 'maud VAN DER BERG', last_name: '', email: '', phone: '', ...person },
        answers: { wants: ' piano ; violin ', since: '3/4/2026' },
      }),
      catalogueOf(),
      0,
    );
  it('splits a whole name, and goes on with what the tidying before has made', () => {
    const planned = plan([
      { field: 'lead.first_name', do: 'split_name' },
      { field: 'lead.last_name', do: 'name' },
      { field: 'answers.wants', do: 'pick', from: ';', n: 1 },
      { field: 'answers.wants', do: 'upper' },
      { field: 'answers.since', do: 'date' },
    ]);
    expect(planned.does === 'change' && planned.changes.map((change) => [change.field, change.after])).to.deep.equal([
      ['first_name', 'maud'],
      ['last_name', 'van der Berg'],
      ['answers.wants', 'PIANO'],
      ['answers.since', '2026-04-03'],
    ]);
  });
  it('a field that is not there is left empty, and no field is a thing to check', () => {
    const planned = plan([{ field: 'answers.missing', do: 'number' }]);
    expect(planned.does === 'change' && planned.changes).to.deep.equal([
      { field: 'answers.missing', before: '', after: '', problem: null },
    ]);
  });
});
