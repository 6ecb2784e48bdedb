import { expect } from 'chai';
import fc from 'fast-check';
import { foundFields, namedAlike } from '../../src/components/found-fields.ts';
import { likeFields, type ThereIs } from '../../src/core/fields/like-fields.ts';
import { type FilterCall, readCall, writeCall, writeOutput } from '../../src/core/template/filter-call.ts';
import { FILTERS } from '../../src/core/template/filters/registry.ts';
import { renderTemplate, SURROUNDINGS, templatePieces, usedReferences } from '../../src/core/template/template.ts';
import { workedOn } from '../../src/core/template/work-on.ts';
import { ANY_REPLY } from '../../src/core/workflow/at.ts';
import { rehearse } from '../../src/steps/rehearse.ts';
import { catalogueOf, freshStep, momentOf, nadia, scopeOf, sheetOf, toTheLead } from '../stage/sheets.ts';

const london = {
  locale: 'en-GB',
  country: 'GB',
  timeZone: 'Europe/London',
  now: Date.parse('2026-11-27T09:00:00Z'),
};
const paris = { ...london, locale: 'fr-FR', country: 'FR', timeZone: 'Europe/Paris' };
const chicago = { ...london, locale: 'en-US', country: 'US', timeZone: 'America/Chicago' };

/** What a message makes of a value: in one field, with another beside it. */
const says = (value: string, filters: string, surroundings = london, other = '') => {
  const made = renderTemplate(`{{ answers.it | ${filters} }}`, {
    ...scopeOf({ answers: { it: value, other } }),
    [SURROUNDINGS]: surroundings,
  });
  return made.ok ? made.text.replaceAll('\u202f', ' ').replaceAll('\u00a0', ' ') : made.problem.text;
};

describe('what is done with a field where it stands', () => {
  const cases: [value: string, filters: string, says: string, where?: typeof london, other?: string][] = [
    ['ADA', 'downcase', 'ada'],
    ['éva', 'capitalize', 'Éva'],
    ['Nadia Ruth Okoye', 'first_word', 'Nadia'],
    ['piano, violin', 'replace: "violin", "cello"', 'piano, cello'],
    ['a.b.c', 'replace: ".", "$&"', 'a$&b$&c'],
    ['£40 a month', 'replace: "£", ""', '40 a month'],
    ['Trial lesson (30 minutes)', 'before: "("', 'Trial lesson'],
    ['Order no. 1042', 'after: "no. "', '1042'],
    ['Trial lesson (30 minutes) on Friday', 'between: "(", ")"', '30 minutes'],
    ['no brackets here', 'between: "(", ")"', 'no brackets here'],
    ['Café👍🏽!', 'keep: 5', 'Café👍🏽'],
    ['A long story about a piano', 'truncate: 10', 'A long ...'],
    ['piano; violin; cello', 'part: 2, ";"', 'violin'],
    ['piano, violin, cello', 'part: -1, ","', 'cello'],
    ['piano', 'part: 3, ","', ''],
    ['piano, violin, cello', 'join_parts: ",", ", ", " and "', 'piano, violin and cello'],
    ['piano', 'join_parts: ",", ", ", " and "', 'piano'],
    ['Nadia', 'join: answers.other, " "', 'Nadia Okoye', london, 'Okoye'],
    ['Nadia', 'join: answers.other, ", "', 'Nadia', london, ''],
    ['', 'default: "there"', 'there'],
    ['', 'default: answers.other', 'Okoye', london, 'Okoye'],
    ['smt', 'pick: "SMT", "Smart plan", "BSC", "Basic", "Other"', 'Smart plan'],
    ['xyz', 'pick: "SMT", "Smart plan", "Other"', 'Other'],
    ['xyz', 'pick: "SMT", "Smart plan"', 'xyz'],
    ['0.1', 'plus: 0.2', '0.3'],
    ['1,250.50', 'plus: 100', '1350.5'],
    ['12', 'minus: answers.other', '9.5', london, '2.5'],
    ['3', 'times: "1.15"', '3.45'],
    ['10', 'divided_by: 4', '2.5'],
    ['10', 'divided_by: 0', '10'],
    ['ten', 'plus: 1', 'ten'],
    ['1250.5', 'number: 2', '1,250.50'],
    ['1250.5', 'number: 2', '1 250,50', paris],
    ['1250.5', 'money: "GBP"', '£1,250.50'],
    ['1250.5', 'money: "EUR"', '1 250,50 €', paris],
    ['1250', 'money: "JPY"', '¥1,250'],
    ['40', 'money: "pounds"', '40'],
    ['2026-12-24', 'date: "day"', 'Thursday 24 December'],
    ['2026-12-24', 'date: "short"', '24/12/2026'],
    ['2026-12-24', 'date: "short"', '12/24/2026', chicago],
    ['03/04/2026', 'date: "full"', '3 April 2026'],
    ['03/04/2026', 'date: "full"', 'March 4, 2026', chicago],
    ['2026-11-27T16:00:00Z', 'date: "time"', '17:00', paris],
    ['2026-11-27T16:00:00Z', 'date: "time"', '10:00 AM', chicago],
    ['2026-11-27', 'date: "time"', ''],
    ['soon', 'date: "day"', 'soon'],
    ['2026-01-31', 'later: 1, "months"', '2026-02-28'],
    ['2024-02-29', 'later: 1, "years"', '2025-02-28'],
    ['2026-12-24', 'earlier: 2, "weeks"', '2026-12-10'],
    // The night in which the clocks go forward has 23 hours: a day later it is the same time, 24 hours later it is not.
    ['2026-03-28T12:00:00Z', 'later: 1, "days"', '2026-03-29T11:00Z'],
    ['2026-03-28T12:00:00Z', 'later: 24, "hours"', '2026-03-29T12:00Z'],
    ['2026-12-04', 'since: "today", "days"', '7'],
    ['2014-11-28', 'until: "today", "years"', '11'],
    ['2014-11-27', 'until: "today", "years"', '12'],
    ['2026-11-20', 'until: answers.other, "days"', '12', london, '2026-12-02'],
    ['07700 900142', 'phone: "international"', '+44 7700 900142'],
    ['+447700900142', 'phone: "national"', '07700 900142'],
    ['call me', 'phone: "national"', 'call me'],
    ['  piano, VIOLIN ', 'part: 2, "," | downcase | capitalize', 'Violin'],
  ];
  for (const [value, filters, expected, where = london, other = ''] of cases)
    it(`“${value}” ${filters} is “${expected}”${where === london ? '' : ` in ${where.country}`}`, () => {
      expect(says(value, filters, where, other)).to.equal(expected);
    });

  it('says of each thing why it could not be done, and leaves the value', () => {
    const problems = (value: string, filters: string) => {
      const [piece] = templatePieces(`{{ answers.it | ${filters} }}`);
      return piece?.kind === 'field'
        ? workedOn(value, piece.filters, () => '', london).map((made) => made.problem)
        : [];
    };
    expect(problems('ten', 'plus: 1')).to.deep.equal(['this is not a number']);
    expect(problems('10', 'plus: "a few"')).to.deep.equal(['“a few” is not a number']);
    expect(problems('soon', 'date: "day" | upcase')).to.deep.equal(['this is not a date', null]);
    expect(problems('Piano', 'pick: "SMT", "Smart"')).to.deep.equal(['it is not in the table']);
    expect(problems('Piano', 'whatever')).to.deep.equal(['nothing here is called “whatever”']);
    expect(problems('', 'plus: 1 | date: "day" | phone: "national" | part: 2')).to.deep.equal([null, null, null, null]);
  });

  it('makes nothing of a value without a word, whatever stands in it', () => {
    const any = fc.oneof(
      fc.string({ maxLength: 60 }),
      fc.constantFrom('1e400', '-0', '9'.repeat(40), '2026-02-31', '٣'),
    );
    fc.assert(
      fc.property(
        fc.constantFrom(...Object.keys(FILTERS)),
        any,
        fc.array(any, { maxLength: 4 }),
        (name, value, args) => {
          const made = FILTERS[name]!.apply(value, args, london);
          expect(made.value).to.be.a('string');
          expect(made.value.length).to.be.lessThan(100_001);
          expect(made.value).not.to.match(/NaN|undefined|Infinity|\[object/);
        },
      ),
    );
  });

  it('is written and read again as what it was', () => {
    const text = fc
      .string({ maxLength: 20 })
      .filter((typed) => !/[{}\r\n]/.test(typed) && !(typed.includes('"') && typed.includes("'")));
    const call = fc.record({
      name: fc.constantFrom(...Object.keys(FILTERS)),
      args: fc.array(
        fc.oneof(
          text.map((typed) => ({ text: typed })),
          fc.constant({ reference: { group: 'answers' as const, key: 'contact.city' } }),
        ),
        { maxLength: 5 },
      ),
    });
    fc.assert(
      fc.property(fc.array(call, { maxLength: 4 }), (calls: FilterCall[]) => {
        for (const one of calls) expect(readCall(writeCall(one))).to.deep.equal(one);
        const [piece] = templatePieces(writeOutput('lead.first_name', calls));
        expect(piece).to.deep.include({ kind: 'field', filters: calls });
      }),
    );
  });

  it('names the fields it is worked on with as well', () => {
    expect(usedReferences('Hello {{ lead.first_name | join: lead.last_name, " " }}')).to.deep.equal([
      { group: 'lead', key: 'first_name' },
      { group: 'lead', key: 'last_name' },
    ]);
  });
});

const there = (group: ThereIs['group'], key: string, label: string, value = ''): ThereIs => ({
  group,
  key,
  label,
  value,
});
const SAMPLE = [
  there('lead', 'first_name', 'First name', 'Nadia'),
  there('lead', 'last_name', 'Last name', 'Okoye'),
  there('lead', 'full_name', 'Full name', 'Nadia Okoye'),
  there('lead', 'email', 'Email', 'nadia@example.org'),
  there('lead', 'phone', 'Phone', '+447700900142'),
  there('answers', 'instrument', 'Which instrument?', 'Piano'),
  there('answers', 'contact.address.city', 'City', 'Bristol'),
  there('answers', 'billing.address.city', 'City', 'Bath'),
  there('answers', 'emails', 'Email', 'work, nadia@example.org, true'),
];

describe('fields that belong together by their names', () => {
  const guessed = (...labels: string[]) =>
    likeFields(
      labels.map((label) => ({ key: label, label })),
      SAMPLE,
      'GB',
    ).map(({ wanted, field }) => `${wanted.label}: ${field.group}.${field.key}`);

  it('matches the same, the like and the slip of a finger', () => {
    expect(guessed('First name', 'SURNAME', 'E-mail address', 'Mobile number', 'Instrument', 'Notes')).to.deep.equal([
      'First name: lead.first_name',
      'SURNAME: lead.last_name',
      'E-mail address: lead.email',
      'Mobile number: lead.phone',
      'Instrument: answers.instrument',
    ]);
    expect(guessed('instruemnt')).to.deep.equal(['instruemnt: answers.instrument']);
  });
  it('guesses each field once, the surest first', () => {
    expect(guessed('Contact', 'Email', 'Second email')).to.deep.equal(['Email: lead.email']);
    expect(guessed('Name', 'Client name')).to.have.length(1);
  });
  it('puts no value where one of another kind belongs', () => {
    const only = SAMPLE.filter(({ key }) => key === 'emails');
    expect(likeFields([{ key: 'e', label: 'Email' }], only, 'GB')).to.deep.equal([]);
  });
  it('finds fields by name, level, group and value, and tells apart what is called alike', () => {
    const keys = (typed: string) => foundFields(SAMPLE, typed).map(({ key }) => key);
    expect(keys('city bath')).to.deep.equal(['billing.address.city']);
    expect(keys('contact ci')).to.deep.equal(['contact.address.city']);
    expect(keys('pia')).to.deep.equal(['instrument']);
    expect(keys('')).to.have.length(SAMPLE.length);
    expect(keys('zzz')).to.deep.equal([]);
    expect([...namedAlike(SAMPLE)]).to.deep.equal(['City']);
  });
  it('finds one among thirty levels of nesting', () => {
    const deep = Array.from({ length: 30 }, (_, i) => `level_${i + 1}`).join('.');
    const fields = [...SAMPLE, there('answers', `${deep}.postcode`, 'Postcode', 'BS1 4DJ')];
    expect(foundFields(fields, 'level 30 post').map(({ label }) => label)).to.deep.equal(['Postcode']);
  });
});

describe('a sample whose values are set by hand', () => {
  const look = freshStep('look-up', 'look', {
    name: 'Teacher',
    key: 'teacher',
    tab: 'teachers',
    column: 'instrument',
    value: '{{ answers.instrument }}',
  });
  const room = (value: string) => ({
    field: 'found["teacher.room"]',
    test: 'is' as const,
    value,
    to: '',
    exact: false,
  });
  const sheet = sheetOf([
    momentOf('arrival', {
      first: [look],
      cases: [{ id: 'four', name: '', when: room('Room 4'), lanes: { lead: [], record: [], team: [] } }],
    }),
    momentOf('reply', {
      at: ANY_REPLY,
      ...toTheLead(freshStep('text', 'thanks', { message: 'You wrote: {{ happened.text }}' })),
    }),
  ]);
  const catalogue = catalogueOf({
    tabs: [
      {
        id: 'teachers',
        name: 'Teachers',
        columns: [
          { id: 'instrument', name: 'Instrument' },
          { id: 'room', name: 'Room' },
        ],
      },
    ],
  });
  const shown = (values: Record<string, string>) =>
    rehearse(sheet, nadia(), catalogue, {
      now: london.now,
      happens: true,
      justCameIn: true,
      zoneOf: () => null,
      values,
      found: new Map([['look', [{ reference: 'found["teacher.room"]', value: 'Room 1' }]]]),
    }).moments;

  it('comes to the case it is set for, whatever the look-up finds', () => {
    expect(shown({})[0]!.caseId).to.equal(null);
    expect(shown({ 'found["teacher.room"]': 'Room 4' })[0]!.caseId).to.equal('four');
  });
  it('replies in the words that are set', () => {
    const text = (values: Record<string, string>) => {
      const plan = shown(values)[1]!.steps[0]!.plan;
      return plan.does === 'send' && plan.message.channel === 'text' ? plan.message.text : plan;
    };
    expect(text({})).to.equal('You wrote: Yes please');
    expect(text({ 'happened.text': 'Call me at six' })).to.equal('You wrote: Call me at six');
  });
});
